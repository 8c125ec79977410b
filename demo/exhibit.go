package demo

import (
	"archive/zip"
	"bytes"
	"fmt"
	"math"
	"path"
	"strings"
)

const (
	foghorn  = "Bench/tide-clock/foghorn"
	clock    = "Bench/tide-clock/clock-mechanism"
	memories = "Bench/tide-clock/spoken-memories"
	trailer  = "Bench/tide-clock/trailer"
	score    = "Bench/tide-clock/score"
	stores   = "Stores/clock parts"
	disc     = "Loft/bells 1998"
)

// project is a document the sample world opens with.
type project struct{ name, document, root string }

// projects are listed with the film first: that is where a newcomer begins.
var projects = []project{
	{"Tide Clock film", film + "/cut-04.otio", film},
	{"Deck scene", deck + "/deck.gltf", deck},
	{"Deck scene, layers", deck + "/deck.usda", deck},
	{"Foghorn soundscape", foghorn + "/soundscape.adl", foghorn},
	{"Sampled bell", foghorn + "/bell.sfz", foghorn},
	{"Clock mechanism", clock + "/tide clock.stp", clock},
	{"Clock drawings", clock + "/drawings/gear train.svg", clock},
	{"Clock linkage", clock + "/linkage.urdf", clock},
	{"Spoken memories", memories + "/memories.qdpx", memories},
	{"Exhibit list", "Bench/exhibit/material.csv", "Bench/exhibit"},
	{"Gallery loop", foghorn + "/gallery.loop", foghorn},
	{"Film trailer", trailer + "/trailer.edl", trailer},
	{"Dial assembly", clock + "/dial assembly.stp", clock},
	{"Gallery bells", "Bench/exhibit/gallery bells.xspf", "Bench/exhibit"},
	{"Night watch score", score + "/night watch.watch", score},
	{"Chart photographs", charts + "/ro-crate-metadata.json", charts},
}

func (w *world) text(p, s string) { w.add(p, func() []byte { return []byte(s) }) }

// exhibit is the rest of the world beside film and deck: a soundscape with its
// instrument, an assembly with drawings and a linkage, a research project and a
// list somebody typed.
func (w *world) exhibit() {
	w.soundscape()
	w.loop()
	w.trailer()
	w.mechanism()
	w.layers()
	w.research()
	w.managed()
	w.slowDisc()
	w.unknown()
	w.apart()
	w.photographs()
	w.text("Bench/exhibit/material.csv", "Location;Kind;Use;Owner;Role;Note\r\n"+
		"../tide-clock/film/stills/lamp room.png;picture;;Picture desk;;wall panel 2\r\n"+
		"../tide-clock/clock-mechanism/drawings/gear train.svg;drawing;;Workshop;;wall panel 3\r\n"+
		"\"labels/tide; clock.txt\";text;;Archive;;\r\n"+
		"labels/old wording.txt;text;listed;Archive;;not hung\r\n"+
		"labels/quiet hour.xspf;;;Sound desk;;playlist, saved on the last evening\r\n"+
		"print/panels.pdf;drawing;;Picture desk;write;to the printer\r\n")
	// The machine went off while it was saved.
	w.text("Bench/exhibit/labels/quiet hour.xspf", "<?xml version=\"1.0\" encoding=\"UTF-8\"?>\n<playlist version=\"1\" xmlns=\"http://xspf.org/ns/0/\">\n  <trackList>\n    <track><title>surf at n")
	w.text("Bench/exhibit/labels/tide; clock.txt", "The Tide Clock. Twelve hours and twenty-five minutes from flood to flood.\n")
	w.text("Bench/exhibit/labels/old wording.txt", "A clock that tells the tide.\n")
}

// loopRules is how the museum taught the application the format of its gallery
// player, which nobody else has.
const (
	loopRulesName = "gallery loop"
	loopRules     = `title: Gallery player loop
extensions: [loop]
carrier: xml
contains: <loop
paths:
  - at: scene/play[@on="no"]/@sound   # switched off in the gallery
    base: takes
    use: dormant
  - at: scene/play/@sound             # names below takes/
    base: takes
  - at: /loop/log                     # where the player writes its log
    role: write
`
)

func (w *world) loop() {
	w.text(foghorn+"/gallery.loop", `<loop title="The Tide Clock, all day">
  <scene name="flood">
    <play sound="horn near.wav" level="-6"/>
    <play sound="fog bed.wav" level="-18"/>
  </scene>
  <scene name="ebb">
    <play sound="old horn take.wav" on="no"/>
    <play sound="gulls at ebb.wav"/>
  </scene>
  <log>logs/gallery.csv</log>
</loop>
`)
	w.sound(foghorn+"/takes/gulls at ebb.wav", voice{seconds: 4, tone: 880, partials: 2, noise: 0.3})
}

// trailer is a list of cuts from another edit suite: it names clips and reels
// and no folders.
func (w *world) trailer() {
	w.text(trailer+"/trailer.edl", strings.ReplaceAll(`TITLE: TIDE CLOCK TRAILER
FCM: NON-DROP FRAME

001  AX       V     C        00:00:00:00 00:00:04:00 01:00:00:00 01:00:04:00
* FROM CLIP NAME: lamp room
002  AX       V     C        00:00:00:00 00:00:02:00 01:00:04:00 01:00:06:00
* FROM CLIP NAME: end card
003  BL       V     C        00:00:00:00 00:00:01:00 01:00:06:00 01:00:07:00
004  VOICE01  AA    C        00:00:01:00 00:00:05:00 01:00:00:00 01:00:04:00
005  DECK07   V     C        01:12:00:00 01:12:03:00 01:00:07:00 01:00:10:00
* FROM CLIP NAME: bow wave
`, "\n", "\r\n"))
	w.sound(trailer+"/voice/voice01.wav", voice{seconds: 6, channels: 1, tone: 140, partials: 9, strike: 3, every: 0.4, noise: 0.1})
	w.add(trailer+"/titles/end card.png", func() []byte { return still("end", 640, 360, 0.6) })
	w.add(trailer+"/titles/before the rename/end card.png", func() []byte { return still("end before", 640, 360, 0.4) })
}

func (w *world) soundscape() {
	sounds := []struct {
		name string
		v    voice
	}{
		{"horn near", voice{seconds: 6, tone: 82, partials: 10, noise: 0.1}}, {"horn answering", voice{seconds: 5, tone: 110, partials: 6, noise: 0.2}},
		{"fog bed", voice{seconds: 8, noise: 0.9}}, {"old horn take", voice{seconds: 4, tone: 92, partials: 5, noise: 0.3}}, {"spare surf", voice{seconds: 3, noise: 1}},
	}
	var index, events strings.Builder
	for i, s := range sounds {
		w.sound(foghorn+"/takes/"+s.name+".wav", s.v)
		fmt.Fprintf(&index, "  (Index) %04d (F) \"URL:takes/%s.wav\" \"_\" 00:00:00:00/0000 00:00:%02d:00/0000 \"%s\" N\r\n", i+1, escape(s.name), int(s.v.seconds), s.name)
		if i == len(sounds)-1 {
			break // brought in and never placed
		}
		muted := ""
		if s.name == "old horn take" {
			muted = " (Mute)"
		}
		fmt.Fprintf(&events, "  (Entry) %04d (Cut) I %04d 01~02 01~02 00:00:00:00/0000 01:00:%02d:00/0000 01:00:%02d:12/0960 R%s\r\n", i+1, i+1, 4*i, 4*i+3, muted)
	}
	w.text(foghorn+"/soundscape.adl", "<ADL>\r\n <VERSION>\r\n  (ADL_ID) \"SLS-0001\"\r\n  (VER_ADL_VERSION) 01.01\r\n </VERSION>\r\n <SEQUENCE>\r\n  (S_RATE) S48000\r\n  (FRAME_RATE) 25\r\n </SEQUENCE>\r\n"+
		" <SOURCE_INDEX>\r\n"+index.String()+" </SOURCE_INDEX>\r\n <EVENT_LIST>\r\n"+events.String()+" </EVENT_LIST>\r\n</ADL>\r\n")
	var regions strings.Builder
	for i, n := range []string{"A soft", "A hard", "C soft", "C hard"} {
		w.sound(fmt.Sprintf("%s/samples/bell_%s.wav", foghorn, n), voice{seconds: 3, channels: 1, tone: 330 + 60*float64(i/2), partials: 7, strike: 1.5, every: 3})
		fmt.Fprintf(&regions, "<region> sample=%s.wav lovel=%d hivel=%d key=%d\n", n, 64*(i%2), 63+64*(i%2), 57+3*(i/2))
	}
	w.text(foghorn+"/bell.sfz", "// the ship's bell, four strikes\n<control>\ndefault_path=samples/bell_\n<group> ampeg_release=2\n#include \"maps/strikes.sfz\"\n<region> sample=*sine key=20\n")
	w.text(foghorn+"/maps/strikes.sfz", "// included by the bell: names are the bell's own\n"+regions.String())
}

// step writes a Part 21 file that names external parts.
func step(name, folder string, parts ...string) string {
	var b strings.Builder
	fmt.Fprintf(&b, "ISO-10303-21;\nHEADER;\nFILE_DESCRIPTION(('%s'),'2;1');\nFILE_NAME('%s.stp','2026-03-04T05:06:07',('Workshop'),('Saltmarsh Lightship'),'','','');\nFILE_SCHEMA(('AP242_MANAGED_MODEL_BASED_3D_ENGINEERING_MIM_LF'));\nENDSEC;\nDATA;\n", name, name)
	fmt.Fprintf(&b, "#1=IDENTIFICATION_ROLE('external document id and location',$);\n#2=EXTERNAL_SOURCE(IDENTIFIER('%s'));\n#3=DOCUMENT_TYPE('geometry');\n", folder)
	for i, p := range parts {
		n := 10 * (i + 1)
		fmt.Fprintf(&b, "#%d=DOCUMENT_FILE('%s','','',#3,'',$);\n#%d=APPLIED_EXTERNAL_IDENTIFICATION_ASSIGNMENT('%s.stp',#1,#2,(#%d));\n", n, p, n+1, p, n)
	}
	b.WriteString("#900=CARTESIAN_POINT('',(0.,0.,0.));\nENDSEC;\nEND-ISO-10303-21;\n")
	return b.String()
}

// managed is a store whose folders hold revisions; the dial still names an earlier
// one of its hand.
func (w *world) managed() {
	for _, p := range []string{"tide hand/r1/tide hand.stp", "tide hand/r2/tide hand.stp", "tide hand/r3/tide hand.stp"} {
		w.text(stores+"/"+p, step(strings.TrimSuffix(path.Base(p), ".stp"), ""))
	}
	w.text(clock+"/dial assembly.stp", strings.ReplaceAll(step("dial assembly", "PLACE", "tide hand"), "IDENTIFIER('PLACE')", "IDENTIFIER('../../../"+stores+"/tide hand/r2')"))
}

// slowDisc is a disc that the gallery plays its bells from.
func (w *world) slowDisc() {
	var tracks strings.Builder
	for i, n := range []string{"noon bell", "fog bell", "last bell"} {
		w.sound(disc+"/"+n+".wav", voice{seconds: 4, tone: 262 + 40*float64(i), partials: 7, strike: 1.2, every: 4})
		fmt.Fprintf(&tracks, "    <track><location>../../%s/%s.wav</location><title>%s</title></track>\n", escape(disc), escape(n), n)
	}
	w.text("Bench/exhibit/gallery bells.xspf", "<?xml version=\"1.0\" encoding=\"UTF-8\"?>\n<playlist version=\"1\" xmlns=\"http://xspf.org/ns/0/\">\n  <trackList>\n"+tracks.String()+"  </trackList>\n</playlist>\n")
}

// unknown is the document of a program that nobody here knows, saved on another
// machine.
func (w *world) unknown() {
	var clips strings.Builder
	for i, n := range []string{"bell buoy", "rope creak", "log line", "watch change", "pump stroke", "rain on canvas"} {
		w.sound(score+"/sounds/"+n+".wav", voice{seconds: 2, tone: 90 + 35*float64(i), partials: 5, noise: 0.4})
		fmt.Fprintf(&clips, "    <event at=\"%d\"><sample file=\"sounds/%s.wav\"/></event>\n", 4*i, n)
	}
	w.text(score+"/night watch.watch", "<?xml version=\"1.0\"?>\n<watch-score made-on=\"D:\\scores\">\n  <voice name=\"deck\">\n"+clips.String()+"  </voice>\n</watch-score>\n")
}

// drawing is a sheet with a title and the arrow that tells north.
func drawing(title, lines string) string {
	return `<?xml version="1.0" encoding="UTF-8"?>
<?xml-stylesheet type="text/css" href="pen.css"?>
<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 640 760">
  ` + lines + `
  <use href="arrows.svg#north" x="30" y="30"/>
  <text x="40" y="740">` + title + `</text>
</svg>
`
}

// wheel is the outline of a toothed wheel, in the middle of a sheet.
func wheel(teeth int, radius, tooth float64) string {
	var b strings.Builder
	for i := range 4 * teeth {
		r := radius
		if i%4 < 2 {
			r -= tooth
		}
		a := 2 * math.Pi * float64(i) / float64(4*teeth)
		fmt.Fprintf(&b, "%.1f,%.1f ", 320+r*math.Cos(a), 360+r*math.Sin(a))
	}
	return `<polygon class="cut" fill="none" points="` + strings.TrimSpace(b.String()) + `"/>`
}

// apart are things that belong to files and stayed behind when those were moved.
func (w *world) apart() {
	w.text("Bench/downloads/keeper on fog.srt", "1\n00:00:01,000 --> 00:00:04,000\nIn fog you count, and you listen.\n")
}

func (w *world) mechanism() {
	w.text(clock+"/tide clock.stp", step("tide clock", "parts", "gear train", "frame plate", "dial"))
	w.text(clock+"/parts/gear train.stp", step("gear train", "", "great wheel", "moon pinion 12", "escape wheel"))
	for _, p := range []string{"frame plate", "dial", "great wheel", "moon pinion 12", "escape wheel"} {
		w.text(clock+"/parts/"+p+".stp", step(p, ""))
	}
	w.add(clock+"/drawings/dial face.png", func() []byte { return still("dial", 800, 800, 0.7) })
	w.text(clock+"/drawings/pen.css", ".cut { stroke: #1e2a35 }\n.paper { background: url(\"laid paper.png\") }\n")
	w.add(clock+"/drawings/laid paper.png", func() []byte { return texture("laid paper", 256) })
	w.text(clock+"/drawings/arrows.svg", `<svg xmlns="http://www.w3.org/2000/svg"><symbol id="north"><path d="M0 9L3 0l3 9z"/></symbol></svg>`+"\n")
	w.text(clock+"/drawings/gear train.svg", `<?xml version="1.0" encoding="UTF-8"?>
<?xml-stylesheet type="text/css" href="pen.css"?>
<svg xmlns="http://www.w3.org/2000/svg" xmlns:xlink="http://www.w3.org/1999/xlink" viewBox="0 0 800 800">
  <image id="dial" xlink:href="dial%20face.png" width="800" height="800"/>
  <use href="arrows.svg#north" x="40" y="40"/>
  <g display="none"><image href="measuring sheet.png"/></g>
  <circle class="cut" cx="400" cy="400" r="300" fill="none"/>
</svg>
`)
	w.text(clock+"/drawings/great wheel.svg", drawing("great wheel", wheel(96, 260, 14)))
	w.text(clock+"/drawings/escape wheel.svg", drawing("escape wheel", wheel(30, 260, 14)))
	w.text(clock+"/drawings/frame plate.svg", drawing("frame plate", `<rect class="cut" x="120" y="90" width="400" height="520" fill="none"/><circle class="cut" cx="320" cy="250" r="16" fill="none"/><circle class="cut" cx="320" cy="460" r="16" fill="none"/>`))
	w.text(clock+"/drawings/sheet 1.svg", drawing("tide clock.stp, seen from the front", wheel(96, 200, 10)+`<rect class="cut" x="80" y="60" width="480" height="600" fill="none"/>`))
	w.add(clock+"/drawings/measuring sheet.png", func() []byte { return texture("measuring", 256) })
	w.text(clock+"/package.xml", "<?xml version=\"1.0\"?>\n<package format=\"3\"><name>tide_clock</name><version>1.0.0</version></package>\n")
	mesh := func(name string) {
		w.text(clock+"/meshes/"+name+".dae", `<?xml version="1.0" encoding="utf-8"?>
<COLLADA xmlns="http://www.collada.org/2005/11/COLLADASchema" version="1.4.1">
  <library_images><image id="brass"><init_from>../meshes/brass.png</init_from></image></library_images>
  <library_effects><effect id="e"><profile_COMMON><newparam sid="s"><surface type="2D"><init_from>brass</init_from></surface></newparam></profile_COMMON></effect></library_effects>
</COLLADA>
`)
	}
	mesh("crank")
	mesh("float arm")
	w.add(clock+"/meshes/brass.png", func() []byte { return texture("brass", 256) })
	w.text(clock+"/linkage.urdf", `<?xml version="1.0"?>
<robot name="tide linkage">
  <link name="crank"><visual><geometry><mesh filename="package://tide_clock/meshes/crank.dae"/></geometry></visual></link>
  <link name="float arm"><visual><geometry><mesh filename="package://tide_clock/meshes/float%20arm.dae"/></geometry></visual></link>
  <joint name="hinge" type="revolute"><parent link="crank"/><child link="float arm"/></joint>
</robot>
`)
}

// layers is the deck once more, for programs that read layered scenes.
func (w *world) layers() {
	w.text(deck+"/deck.usda", `#usda 1.0
(
    defaultPrim = "deck"
    subLayers = [@./lamp light.usda@]
)
def Xform "deck" (
    variants = { string weather = "dry" }
    prepend variantSets = "weather"
)
{
    def Shader "planks" { asset inputs:file = @textures/planks colour.png@ }
    variantSet "weather" = {
        "dry" { asset inputs:sheet = @textures/mast colour.png@ }
        "wet" { asset inputs:sheet = @textures/wet planks.png@ }
    }
    asset inputs:material = @deck.mtlx@
    asset inputs:sky = @@
}
`)
	w.text(deck+"/lamp light.usda", "#usda 1.0\ndef SphereLight \"lamp\" { asset inputs:texture:file = @textures/brass colour.png@ }\n")
	w.text(deck+"/deck.mtlx", `<?xml version="1.0"?>
<materialx version="1.39" fileprefix="textures/">
  <image name="planks" type="color3"><input name="file" type="filename" value="planks colour.png"/></image>
  <image name="hull" type="color3"><input name="file" type="filename" value="hull.&lt;UDIM&gt;.png"/></image>
</materialx>
`)
	w.add(deck+"/textures/wet planks.png", func() []byte { return texture("wet", 256) })
	for _, n := range []int{1001, 1002, 1004} {
		w.add(fmt.Sprintf("%s/textures/hull.%d.png", deck, n), func() []byte { return texture(fmt.Sprint("hull", n), 256) })
	}
}

func (w *world) research() {
	w.sound(memories+"/audio/wheelman at night.wav", voice{seconds: 7, channels: 1, tone: 125, partials: 9, strike: 3, every: 0.3, noise: 0.1})
	w.add(memories+"/memories.qdpx", func() []byte {
		var b bytes.Buffer
		zw := zip.NewWriter(&b)
		for _, m := range [][2]string{
			{"project.qde", `<?xml version="1.0" encoding="utf-8"?>
<Project name="Spoken memories" xmlns="urn:QDA-XML:project:1.0"><Sources>
  <AudioSource guid="1" name="keeper on fog" path="relative://audio/keeper on fog.wav"><Transcript guid="2" plainTextPath="internal://keeper.txt"/></AudioSource>
  <AudioSource guid="3" name="wheelman at night" path="relative://audio/wheelman at night.wav"/>
  <PDFSource guid="4" name="log page" path="internal://log page.pdf"/>
</Sources></Project>
`},
			{"sources/keeper.txt", "In fog you count, and you listen.\n"}, {"sources/log page.pdf", "%PDF-1.4\n%%EOF\n"},
		} {
			if f, err := zw.Create(m[0]); err == nil {
				_, _ = f.Write([]byte(m[1])) // a buffer takes everything
			}
		}
		_ = zw.Close()
		return b.Bytes()
	})
}

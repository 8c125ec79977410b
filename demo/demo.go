// Package demo writes the made-up sample world: the Saltmarsh Lightship, a
// small museum on a retired light vessel that is building an exhibit, "The Tide
// Clock". All media are synthesised here.
//
// The world is first written whole and traced, so that the application
// remembers it; then what happens to every project happens to it: a file is
// renamed, a folder moved, a drive unplugged.
package demo

import (
	"context"
	"encoding/base64"
	"encoding/binary"
	"encoding/json"
	"fmt"
	"math"
	"os"
	"path/filepath"
	"runtime"
	"strings"
	"sync"
	"time"

	"boundcrate/core/disk/drive"
	"boundcrate/core/road/origin"
	"boundcrate/core/road/trace"
	"boundcrate/core/text/format/all"
	"boundcrate/store"
)

// Drives of the sample world, below its folder.
const (
	drivesDir = "drives"
	dataDir   = "data"
	ready     = "written"
)

// DataDir is the application's data folder within a sample world.
func DataDir(dir string) string { return filepath.Join(dir, dataDir) }

// Write writes the world into dir once; a world that is there is left as the
// user made it.
func Write(ctx context.Context, dir string) error {
	if _, err := os.Stat(filepath.Join(dir, ready)); err == nil {
		return nil
	}
	if es, err := os.ReadDir(dir); err == nil && len(es) > 0 {
		return fmt.Errorf("‘%s’ holds something that is no whole sample world; remove it or name another folder", dir)
	}
	w := &world{dir: dir}
	w.film()
	w.deck()
	w.exhibit()
	if err := w.write(ctx); err != nil {
		return err
	}
	if err := w.gathered(time.Now().AddDate(0, 0, -6)); err != nil {
		return err
	}
	s, err := store.Open(DataDir(dir))
	if err != nil {
		return err
	}
	defer s.Close()
	if err := w.remember(ctx, s); err != nil {
		return err
	}
	if err := w.trouble(); err != nil {
		return err
	}
	return os.WriteFile(filepath.Join(dir, ready), []byte("The sample world is whole.\n"), 0o644)
}

type world struct {
	dir   string
	files []file
}

// file is one file to make; content is called on any of the cores.
type file struct {
	path    string // "Bench/…"
	content func() []byte
}

func (w *world) path(p string) string { return filepath.Join(w.dir, drivesDir, filepath.FromSlash(p)) }

func (w *world) add(p string, content func() []byte) { w.files = append(w.files, file{p, content}) }

func (w *world) json(p string, v any) {
	w.add(p, func() []byte {
		b, err := json.MarshalIndent(v, "", "  ")
		if err != nil {
			panic(err) // maps and strings always marshal
		}
		return append(b, '\n')
	})
}

func (w *world) write(ctx context.Context) error {
	var wg sync.WaitGroup
	work := make(chan file)
	errs := make(chan error, len(w.files))
	for range runtime.NumCPU() {
		wg.Go(func() {
			for f := range work {
				p := w.path(f.path)
				if err := os.MkdirAll(filepath.Dir(p), 0o755); err != nil {
					errs <- err
				} else if err := os.WriteFile(p, f.content(), 0o644); err != nil {
					errs <- err
				}
			}
		})
	}
	for _, f := range w.files {
		if ctx.Err() != nil {
			break
		}
		work <- f
	}
	close(work)
	wg.Wait()
	close(errs)
	if err := <-errs; err != nil {
		return err
	}
	return ctx.Err()
}

const (
	film = "Bench/tide-clock/film"
	deck = "Bench/tide-clock/deck-scene"

	// oldFilm is where the film stood before it was copied: everybody thinks that it
	// can go.
	oldFilm = "Bench/old film"
)

// remember configures the drives, adds the projects and traces them, as if the
// user had opened them last week.
func (w *world) remember(ctx context.Context, s *store.Store) error {
	for _, d := range []struct{ name, kind string }{{"Bench", drive.Fixed}, {"Quay", drive.Network}, {"Shuttle", drive.Removable}, {"Loft", drive.Optical}, {"Stores", drive.Network}} {
		dir := w.path(d.name)
		if err := s.PutDrive(d.name, dir, d.kind, d.name == "Shuttle" || d.name == "Loft"); err != nil {
			return err
		}
	}
	known, err := s.CoreDrives()
	if err != nil {
		return err
	}
	for _, d := range known {
		if d.Name == "Loft" { // a stand-in gives what the drive gives that it stands for
			if err := s.Slow(d.ID, 1_385_000); err != nil {
				return err
			}
		}
	}
	for p, kind := range map[string]origin.DeclaredKind{"Quay/library": origin.AsLibrary, stores: origin.AsStore} {
		if err := s.Declare(drive.At(known, w.path(p)), kind); err != nil {
			return err
		}
	}
	if err := s.SetRules(store.RulesFile{Name: loopRulesName, Text: loopRules, On: true}); err != nil {
		return err
	}
	formats, _, err := s.Formats(all.Formats())
	if err != nil {
		return err
	}
	drives, err := s.CoreDrives()
	if err != nil {
		return err
	}
	if err := w.kept(ctx, s, formats, drives); err != nil {
		return err
	}
	memory, err := s.Memory(nil)
	if err != nil {
		return err
	}
	defer memory.Close()
	memory.Closely = true
	reach := drive.Set{Drives: drives}
	now := time.Now()
	for i, p := range projects {
		doc, root := w.path(p.document), w.path(p.root)
		g, err := trace.Run(ctx, trace.Options{Formats: formats, Reach: reach, Drives: drives, Root: root}, doc)
		if err != nil {
			return err
		}
		if err := memory.Remember(ctx, g, reach, nil, now.AddDate(0, 0, -6), nil); err != nil {
			return err
		}
		known, err := s.AddProject(p.name, []string{doc}, root, now.Add(-time.Duration(i)*time.Minute))
		if err != nil {
			return err
		}
		if err := s.KeepUses(known.ID, reach, formats, now.AddDate(0, 0, -6), g); err != nil {
			return err
		}
	}
	return nil
}

// trouble is what happened since.
func (w *world) trouble() error {
	late := w.path(charts + "/night 2/sheet 06 soundings west.png") // photographed after the set was gathered
	if err := os.WriteFile(late, still("night 2 sheet 06", 480, 320, 0.5), 0o644); err != nil {
		return err
	}
	for _, m := range [][2]string{
		{film + "/sound/winch_close.wav", "Quay/library/machines/winch_close.wav"},        // filed away
		{film + "/sound/chain locker.wav", film + "/sound/anchor/chain 07.wav"},           // renamed outside the program
		{film + "/sound/gull over stern.wav", film + "/sound/birds/stern gull 3.wav"},     // renamed, and copied: two could be it
		{film + "/location", "Bench/tide-clock/location takes"},                           // a folder dragged elsewhere
		{film + "/stills/chart 1911 deskew.png", "Quay/scans/1911/chart 1911 deskew.png"}, // filed away
		{clock + "/parts/moon pinion 12.stp", "Bench/downloads/moon pinion 12.stp"},       // sent by the supplier once more
		{foghorn + "/takes/horn answering.wav", foghorn + "/takes/horn answering v2.wav"}, // renamed outside the program
		{foghorn + "/takes/gulls at ebb.wav", foghorn + "/takes/gulls, ebb.wav"},          // renamed outside the program
		{"Shuttle", ".unplugged/Shuttle"},
	} {
		if err := w.move(m[0], m[1]); err != nil {
			return err
		}
	}
	for _, n := range []int{147, 148} { // rendered again, into another folder
		name := fmt.Sprintf("sun.%04d.png", n)
		if err := w.move(film+"/sunrise/"+name, "Bench/tide-clock/renders/sunrise again/"+name); err != nil {
			return err
		}
	}
	if err := os.Remove(w.path(film + "/sound/foghorn_low_02.wav")); err != nil {
		return err
	}
	lastWeek := time.Now().AddDate(0, 0, -7)
	if err := os.Chtimes(w.path(film+"/cut-03.otio"), lastWeek, lastWeek); err != nil {
		return err
	}
	gull, err := os.ReadFile(w.path(film + "/sound/birds/stern gull 3.wav"))
	if err != nil {
		return err
	}
	for p, b := range map[string][]byte{
		film + "/sound/birds/stern gull 3 copy.wav": gull,
		// Another bounce of the same horn: same length, other content.
		film + "/sound/foghorn_low_02 old.wav": voice{seconds: 14, channels: 2, rate: 48000, depth: 24, tone: 87, partials: 9, noise: 0.14, seed: 77}.wav(),
		// A namesake: same name, another recording.
		"Bench/downloads/winch_close.wav": voice{seconds: 3, channels: 2, rate: 48000, depth: 24, noise: 0.8, seed: 99}.wav(),
	} {
		if err := os.WriteFile(w.path(p), b, 0o644); err != nil {
			return err
		}
	}
	return nil
}

func (w *world) move(from, to string) error {
	if err := os.MkdirAll(filepath.Dir(w.path(to)), 0o755); err != nil {
		return err
	}
	return os.Rename(w.path(from), w.path(to))
}

// OpenTimelineIO in Go values.
type object = map[string]any

func rational(frames int) object {
	return object{"OTIO_SCHEMA": "RationalTime.1", "rate": 24.0, "value": float64(frames)}
}

func span(from, frames int) object {
	return object{"OTIO_SCHEMA": "TimeRange.1", "start_time": rational(from), "duration": rational(frames)}
}

func external(url string) object {
	return object{"OTIO_SCHEMA": "ExternalReference.1", "target_url": url, "available_range": nil, "metadata": object{}}
}

func clip(name, url string, from, frames int) object {
	return clipOf(name, object{"DEFAULT_MEDIA": external(url)}, from, frames)
}

func clipOf(name string, refs object, from, frames int) object {
	return object{"OTIO_SCHEMA": "Clip.2", "name": name, "source_range": span(from, frames), "media_references": refs,
		"active_media_reference_key": "DEFAULT_MEDIA", "enabled": true, "effects": []any{}, "markers": []any{}, "metadata": object{}}
}

func track(name, kind string, children ...object) object {
	return object{"OTIO_SCHEMA": "Track.1", "name": name, "kind": kind, "enabled": true, "children": children, "metadata": object{}}
}

func timeline(name string, tracks ...object) object {
	return object{"OTIO_SCHEMA": "Timeline.1", "name": name, "global_start_time": nil, "metadata": object{},
		"tracks": object{"OTIO_SCHEMA": "Stack.1", "name": "tracks", "children": tracks, "metadata": object{}}}
}

func (w *world) sound(p string, v voice) {
	v.rate = 48000
	if v.depth == 0 {
		v.depth = 24
	}
	if v.channels == 0 {
		v.channels = 2
	}
	v.seed = uint64(len(w.files)) + 1
	w.add(p, v.wav)
}

func (w *world) film() {
	w.filmMedia()
	w.filmDocuments()
}

func (w *world) filmMedia() {
	s := film + "/sound/"
	w.sound(s+"foghorn_low_02.wav", voice{seconds: 14, tone: 87, partials: 9, noise: 0.1})
	w.sound(s+"foghorn_far.wav", voice{seconds: 12, tone: 98, partials: 4, noise: 0.3})
	w.sound(s+"gull over stern.wav", voice{seconds: 6, tone: 1180, partials: 3, strike: 5, every: 0.7, noise: 0.2})
	w.sound(s+"winch_close.wav", voice{seconds: 8, tone: 61, partials: 12, strike: 9, every: 0.19, noise: 0.5})
	w.sound(s+"wave.wav", voice{seconds: 16, noise: 1})
	w.sound(s+"chain locker.wav", voice{seconds: 7, tone: 410, partials: 8, strike: 14, every: 0.11, noise: 0.4})
	w.sound(s+"deck steps.wav", voice{seconds: 9, tone: 130, partials: 2, strike: 18, every: 0.55, noise: 0.6})
	w.sound(s+"pump room.wav", voice{seconds: 11, tone: 55, partials: 14, noise: 0.35})
	w.sound(s+"clock tick.wav", voice{seconds: 10, channels: 1, tone: 2100, partials: 2, strike: 60, every: 0.5})
	w.sound(s+"clock strike.wav", voice{seconds: 9, channels: 1, tone: 523, partials: 7, strike: 1.4, every: 3})
	w.sound(s+"narration 1.wav", voice{seconds: 18, channels: 1, tone: 142, partials: 10, strike: 3, every: 0.31, noise: 0.1})
	w.sound(s+"narration 2.wav", voice{seconds: 15, channels: 1, tone: 148, partials: 10, strike: 3, every: 0.27, noise: 0.1})
	w.sound(s+"narration 2 take 1.wav", voice{seconds: 13, channels: 1, tone: 146, partials: 10, strike: 3, every: 0.29, noise: 0.15})
	for i := 1; i <= 3; i++ {
		w.sound(fmt.Sprintf("%s/location/T00%d.wav", film, i), voice{seconds: 8 + float64(i), noise: 0.7, tone: 70 * float64(i), partials: 3})
	}
	w.sound("Bench/tide-clock/spoken-memories/audio/harbour_room_tone.wav", voice{seconds: 20, noise: 0.9, tone: 50, partials: 2})
	w.sound("Bench/tide-clock/spoken-memories/audio/keeper on fog.wav", voice{seconds: 12, channels: 1, tone: 118, partials: 9, strike: 3, every: 0.33, noise: 0.1})
	w.json("Bench/tide-clock/spoken-memories/memories.otio", timeline("memories", track("A1", "Audio",
		clip("keeper", "audio/keeper%20on%20fog.wav", 0, 288), clip("tone", "audio/harbour_room_tone.wav", 0, 480))))
	w.sound("Quay/library/machines/engine idle loop.wav", voice{seconds: 13, tone: 44, partials: 16, noise: 0.25})
	w.sound("Quay/library/water/wave.wav", voice{seconds: 12, noise: 1, depth: 16})
	w.sound("Shuttle/bell session/bell_strike_A.wav", voice{seconds: 8, tone: 330, partials: 8, strike: 0.9, every: 4})
	w.sound("Shuttle/bell session/bell_strike_B.wav", voice{seconds: 8, tone: 392, partials: 8, strike: 0.8, every: 4})
	for i, n := range []string{"lightship at dusk", "chart 1911 deskew", "brass plate", "rope coil", "lamp room", "title card"} {
		w.add(film+"/stills/"+n+".png", func() []byte { return still(n, 1280, 720, 0.2+0.1*float64(i)) })
	}
	w.add("Bench/downloads/lens flare plate.png", func() []byte { return still("flare", 1280, 720, 0.9) })
	for i := 101; i <= 160; i++ {
		w.add(fmt.Sprintf("%s/sunrise/sun.%04d.png", film, i), func() []byte { return still("sunrise", 480, 270, float64(i-101)/59) })
	}
	w.sound(oldFilm+"/takes/narration 3 rough.wav", voice{seconds: 5, channels: 1, tone: 144, partials: 10, strike: 3, every: 0.3, noise: 0.2})
}

func (w *world) filmDocuments() {
	sunrise := object{"OTIO_SCHEMA": "ImageSequenceReference.1", "target_url_base": "sunrise/", "name_prefix": "sun.", "name_suffix": ".png",
		"start_frame": 101, "frame_step": 1, "rate": 24.0, "frame_zero_padding": 4, "available_range": span(0, 60), "missing_frame_policy": "error", "metadata": object{}}
	steps := clip("steps", "sound/deck%20steps.wav", 0, 200)
	steps["enabled"] = false
	// The project stood in another folder once; two tracks go on recording there.
	records := func(to string, t object) object {
		t["metadata"] = object{"bound_crate": object{"record_to": to}}
		return t
	}
	w.json(oldFilm+"/cut-01.otio", timeline("The Tide Clock, cut 1", track("A1", "Audio", clip("rough", "takes/narration%203%20rough.wav", 0, 120))))
	w.json(film+"/opening.otio", timeline("opening",
		track("V1", "Video", clip("title", "stills/title%20card.png", 0, 96), clip("dusk", "stills/lightship%20at%20dusk.png", 0, 120)),
		track("A1", "Audio", clip("first horn", "sound/foghorn_low_02.wav", 0, 240), clip("sea", "sound/wave.wav", 0, 300)),
	))
	w.json(film+"/cut-04.otio", timeline("The Tide Clock, cut 4",
		track("V1", "Video",
			clip("opening", "opening.otio", 0, 216),
			clipOf("sunrise", object{"DEFAULT_MEDIA": sunrise}, 0, 60),
			clip("chart", "stills/chart%201911%20deskew.png", 0, 96),
			clip("plate", "stills/brass%20plate.png", 0, 72),
			clip("rope", "stills/rope%20coil.png", 0, 48),
			clip("lamp", "stills/lamp%20room.png", 0, 96),
		),
		track("V2", "Video", clip("flare", "../../downloads/lens%20flare%20plate.png", 0, 48)),
		records("../../old film/takes", track("A1", "Audio",
			clip("speech 1", "sound/narration%201.wav", 0, 432),
			clipOf("speech 2", object{"DEFAULT_MEDIA": external("sound/narration%202.wav"), "first take": external("sound/narration%202%20take%201.wav")}, 0, 360),
			clip("keeper", "../spoken-memories/audio/keeper%20on%20fog.wav", 0, 288),
		)),
		track("A2", "Audio",
			clip("horn answers", "sound/foghorn_low_02.wav", 0, 200),
			clip("horn far", "sound/foghorn_far.wav", 0, 280),
			clip("gull", "sound/gull%20over%20stern.wav", 0, 140),
			clip("winch", "sound/winch_close.wav", 0, 180),
			clip("chain", "sound/chain%20locker.wav", 0, 160),
			steps,
		),
		track("A3", "Audio",
			clip("sea near", "sound/wave.wav", 0, 380),
			clip("sea far", "file://"+escape(w.path("Quay/library/water/wave.wav")), 0, 280),
			clip("engine", "file://"+escape(w.path("Quay/library/machines/engine idle loop.wav")), 0, 300),
			clip("room", "../spoken-memories/audio/harbour_room_tone.wav", 0, 400),
			clip("pump", "sound/pump%20room.wav", 0, 260),
		),
		track("A4", "Audio",
			clip("tick", "sound/clock%20tick.wav", 0, 240),
			clip("strike", "sound/clock%20strike.wav", 0, 200),
			clip("bell A", "file://"+escape(w.path("Shuttle/bell session/bell_strike_A.wav")), 0, 190),
			clip("bell B", "file://"+escape(w.path("Shuttle/bell session/bell_strike_B.wav")), 0, 190),
			clip("bell A again", "file://"+escape(w.path("Shuttle/bell session/bell_strike_A.wav")), 20, 150),
		),
		records("file://"+escape(w.path(oldFilm+"/takes")), track("A5", "Audio",
			clip("location 1", "location/T001.wav", 0, 200),
			clip("location 2", "location/T002.wav", 0, 220),
			clip("location 3", "location/T003.wav", 0, 240),
		)),
	))
	// An earlier cut, which nothing names.
	w.json(film+"/cut-03.otio", timeline("The Tide Clock, cut 3", track("A1", "Audio", clip("sea", "sound/wave.wav", 0, 300))))
}

func escape(p string) string { return strings.ReplaceAll(p, " ", "%20") }

// deck is a small scene: a deck of planks, a mast, a lamp; one image is in the
// file and in no material.
func (w *world) deck() {
	for _, n := range []string{"planks colour", "planks rough", "mast colour", "brass colour", "draft colour"} {
		w.add(deck+"/textures/"+n+".png", func() []byte { return texture(n, 512) })
	}
	var bin []byte
	f32 := func(v ...float64) {
		for _, x := range v {
			bin = binary.LittleEndian.AppendUint32(bin, math.Float32bits(float32(x)))
		}
	}
	f32(-4, 0, -2, 4, 0, -2, 4, 0, 2, -4, 0, 2) // a quad
	f32(0, 0, 1, 0, 1, 1, 0, 1)                 // its texture coordinates
	for _, i := range []uint16{0, 2, 1, 0, 3, 2} {
		bin = binary.LittleEndian.AppendUint16(bin, i)
	}
	w.add(deck+"/deck.bin", func() []byte { return bin })
	material := func(name string, tex int) object {
		return object{"name": name, "pbrMetallicRoughness": object{"baseColorTexture": object{"index": tex}}}
	}
	planks := material("planks", 0)
	planks["pbrMetallicRoughness"].(object)["metallicRoughnessTexture"] = object{"index": 1}
	brass := material("brass", 3)
	brass["occlusionTexture"] = object{"index": 4}
	mesh := func(name string, mat int) object {
		return object{"name": name, "primitives": []any{object{"attributes": object{"POSITION": 0, "TEXCOORD_0": 1}, "indices": 2, "material": mat}}}
	}
	image := func(name string) object {
		return object{"name": name, "uri": "textures/" + escape(name) + ".png"}
	}
	w.json(deck+"/deck.gltf", object{
		"asset": object{"version": "2.0", "generator": "Saltmarsh Lightship, workshop"}, "scene": 0,
		"scenes": []any{object{"name": "deck", "nodes": []any{0, 1, 2}}},
		"nodes": []any{object{"name": "deck", "mesh": 0}, object{"name": "mast", "mesh": 1, "translation": []any{0, 3, 0}},
			object{"name": "lamp", "mesh": 2, "translation": []any{0, 6, 0}}},
		"meshes":    []any{mesh("deck", 0), mesh("mast", 1), mesh("lamp", 2)},
		"materials": []any{planks, material("mast", 2), brass},
		"textures":  []any{object{"source": 0}, object{"source": 1}, object{"source": 2}, object{"source": 3}, object{"source": 5}},
		"images": []any{image("planks colour"), image("planks rough"), image("mast colour"), image("brass colour"), image("draft colour"),
			// Painted on the last evening, and kept in the scene alone.
			object{"name": "weather stain", "uri": "data:image/png;base64," + base64.StdEncoding.EncodeToString(texture("weather stain", 128))}},
		"buffers": []any{object{"uri": "deck.bin", "byteLength": len(bin)}},
		"bufferViews": []any{object{"buffer": 0, "byteLength": 48, "target": 34962}, object{"buffer": 0, "byteOffset": 48, "byteLength": 32, "target": 34962},
			object{"buffer": 0, "byteOffset": 80, "byteLength": 12, "target": 34963}},
		"accessors": []any{
			object{"bufferView": 0, "componentType": 5126, "count": 4, "type": "VEC3", "min": []any{-4, 0, -2}, "max": []any{4, 0, 2}},
			object{"bufferView": 1, "componentType": 5126, "count": 4, "type": "VEC2"},
			object{"bufferView": 2, "componentType": 5123, "count": 6, "type": "SCALAR"},
		},
	})
}

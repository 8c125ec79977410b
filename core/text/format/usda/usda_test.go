package usda

import (
	"runtime"
	"strings"
	"testing"

	"boundcrate/core/text/format/formattest"
	"boundcrate/core/text/mention"
)

const sample = `#usda 1.0
(
    subLayers = [
        @./light.usda@, # @not.usda@
        @@@odd@name.usda@@@
    ]
    doc = """no @asset@ here"""
)
def Xform "deck" (
    prepend references = @parts/planks.usda@</planks>
    delete references = @old.usda@
    payload = @pack.usdz[inner.png]@
    variants = {
        string finish = "bare"
    }
    prepend variantSets = "finish"
    assetInfo = {
        asset identifier = @deck.usda@
    }
    customData = {
        asset drawing = @notes/deck.png@
        dictionary more = { asset photo = @notes/photo.png@ }
    }
)
{
    variantSet "finish" = {
        "bare" {
            asset inputs:file = @tex/bare.png@
        }
        "painted" (active = true
            references = @painted.usda@) {
            asset inputs:file = @tex/painted.png@
        }
    }
    variantSet "season" = {
        "winter" { asset inputs:file = @snow.png@ }
    }
    def Shader "tile" {
        asset inputs:file = @tex/hull.<UDIM>.exr@
        asset inputs:none = @@
        asset inputs:over.timeSamples = { 1: @f1.png@, 2.5: @f2.png@ }
        asset[] inputs:list = [@a.png@, @b c.png@]
    }
    def Xform "off" (active = false
        references = @hidden.usda@) {
        asset x = @also.png@
    }
    def RenderProduct "out" {
        token productName = "renders/deck.exr"
        asset icon = @i.png@ # not "quoted
        int n = 1// @line.png@ {
        /* @block.png@ ( "
           @more.png@ */ int m = 2
    }
    def "cached" (
        clips = {
            dictionary default = {
                asset manifestAssetPath = @clips/manifest.usda@
                string templateAssetPath = "clips/swell.###.usda"
                double templateStartTime = 1
                double templateEndTime = 9
                double templateStride = 4
                double2[] active = [(0, 0), (4, 1)]
            }
        }
    ) {
        float3[] pts = [(1, -2.5e3, 3), (4,
            5, 6)]
        string[] notes = ["a ) @b.png@", 'c']
        asset[] late = [@d.png@ (1, 2), @e.png@]
    }
}
`

func TestMentions(t *testing.T) {
	formattest.Table(t, Format{}, "x.usda", sample,
		"used / subLayers | ./light.usda", "used / subLayers | odd@name.usda",
		"used /deck references | parts/planks.usda", "used /deck payload | pack.usdz[inner.png] → pack.usdz",
		"used /deck inputs:file | tex/bare.png", "dormant /deck references | painted.usda", "dormant /deck inputs:file | tex/painted.png", "dormant /deck inputs:file | snow.png",
		"used (seq) /deck/tile inputs:file | tex/hull.<UDIM>.exr", "used (unsaved) /deck/tile inputs:none | ",
		"used /deck/tile inputs:over.timeSamples | f1.png", "used /deck/tile inputs:over.timeSamples | f2.png",
		"used /deck/tile inputs:list | a.png", "used /deck/tile inputs:list | b c.png",
		"dormant /deck/off references | hidden.usda", "dormant /deck/off x | also.png",
		"used (write) /deck/out productName | renders/deck.exr", "used /deck/out icon | i.png",
		"used /deck/cached manifestAssetPath | clips/manifest.usda", "used (seq) /deck/cached templateAssetPath | clips/swell.###.usda",
		"used /deck/cached late | d.png", "used /deck/cached late | e.png",
	)
	formattest.Table(t, Format{}, "x.usdz", formattest.Zip("deck.usda", "#usda 1.0\ndef X \"a\" { asset f = @tex/a.png@\nasset g = @gone.png@\n}\n", "tex/a.png", "png!"),
		"used (inside 4, in deck.usda) /a f | tex/a.png", "used (in deck.usda) /a g | gone.png")
	// The layers of a package lead on within it, each read once; what stands in a
	// folder of it and leads nowhere is lost.
	formattest.Table(t, Format{}, "x.usdz", formattest.Zip("deck.usda", "#usda 1.0\ndef \"b\" (references = @parts/mast.usda@ active = false) {}\ndef \"a\" (references = @parts/mast.usda@) {}\ndef \"c\" ( active = false ) { asset f = @dead.usda@ }\n",
		"parts/mast.usda", "#usda 1.0\n(subLayers = [@../deck.usda@])\ndef \"m\" { asset f = @../tex/a.png@\nasset g = @gone.png@\nasset h = @/abs/b.png@\n}\n", "tex/a.png", "png!", "dead.usda", "#usda 1.0\ndef \"d\" { asset f = @tex/a.png@\nasset o = @../beside.png@\n}\n"),
		"dormant (inside 122, in deck.usda) /b references | parts/mast.usda", "used (inside 122, in deck.usda) /a references | parts/mast.usda", "dormant (inside 70, in deck.usda) /c f | dead.usda",
		"used (inside 166, in parts/mast.usda) / subLayers | ../deck.usda", "used (inside 4, in parts/mast.usda) /m f | ../tex/a.png", "used (in parts/mast.usda) /m g | gone.png → parts/gone.png", "used (in parts/mast.usda) /m h | /abs/b.png",
		"dormant (inside 4, in dead.usda) /d f | tex/a.png", "dormant (in dead.usda) /d o | ../beside.png")
	if _, err := formattest.Open(Format{}, "x.usdz", []byte(formattest.Zip("scene.usdc", "PXR-USDC"))); err == nil || !strings.Contains(err.Error(), "its layer scene.usdc is binary") {
		t.Error(err)
	}
}

func TestBadInput(t *testing.T) {
	formattest.Bad(t, Format{}, "x.usda", "#usda 1.0\ndef X \"a\" { asset f = @a.png@\n asset g = @b.png\n}", "line 3: damaged-from an asset path is not closed", 1)
	formattest.Bad(t, Format{}, "x.usda", "#usda 1.0\ndef X \"a\" { asset f = @a.png@ ]", "closes nothing", 1)
	formattest.Bad(t, Format{}, "x.usda", "#usda 1.0\ndef X \"a\" { asset f = @a.png@ /* asset g = @b.png@ }", "a comment is not closed", 1)
}

func FuzzRead(f *testing.F) {
	formattest.Fuzz(f, Format{}, "x.usda", []byte(sample))
}

// TestPrimLines: a prim whose body begins on another line, with metadata or
// without, and an attribute that is only called active, are known as what they
// are (the layout that USD's own text files have, common practice).
func TestPrimLines(t *testing.T) {
	formattest.Table(t, Format{}, "x.usda", "#usda 1.0\ndef Shader \"a\"\n{\n  bool active = 0\n  asset inputs:file = @a.png@\n}\n\ndef \"b\"\n(\n  active = false\n)\n\n{\n  asset inputs:file = @b.png@\n}\ndef Scope \"c\"\n\n# a remark\n{\n  def Shader \"d\"\n  {\n    asset inputs:file = @d.png@\n  }\n}\n",
		"used /a inputs:file | a.png", "dormant /b inputs:file | b.png", "used /c/d inputs:file | d.png")
}

// TestDeep: a text nested 2,000 deep needs memory by its size, not by the square
// of its depth.
func TestDeep(t *testing.T) {
	const deep = 2000
	text := "#usda 1.0\n" + strings.Repeat("def Xform \"a name of some length\" {\nasset f = @a.png@\n", deep) + strings.Repeat("}\n", deep)
	var before, after runtime.MemStats
	runtime.ReadMemStats(&before)
	d, err := Format{}.Read(mention.Text{Name: "x.usda", Bytes: []byte(text)}, nil)
	runtime.ReadMemStats(&after)
	if err != nil || len(d.Mentions) != deep {
		t.Fatal(len(d.Mentions), err)
	}
	if grown := after.TotalAlloc - before.TotalAlloc; grown > 400<<20 {
		t.Errorf("%d MB for %d kB", grown>>20, len(text)>>10)
	}
}

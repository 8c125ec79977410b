package e2e

import (
	"fmt"
	"math"
	"os"
	"path/filepath"
	"strconv"
	"strings"
	"testing"

	"github.com/chromedp/chromedp"
)

// clickExact clicks the button that has a line which is exactly a name.
func clickExact(p *page, name string) chromedp.Action[chromedp.Void] { return exact(p, "button", name) }

// clickLink is clickExact for links.
func clickLink(p *page, name string) chromedp.Action[chromedp.Void] { return exact(p, "main a", name) }

func exact(p *page, selector, name string) chromedp.Action[chromedp.Void] {
	p.t.Helper()
	p.until("for "+selector+" “"+name+"”", fmt.Sprintf(`(() => {
		document.querySelectorAll('[data-e2e]').forEach((e) => e.removeAttribute('data-e2e'));
		const it = [...document.querySelectorAll(%q)].find((e) => e.innerText.split('\n').map((s) => s.trim()).includes(%q));
		it?.setAttribute('data-e2e', '1');
		return it;
	})()`, selector, name))
	return chromedp.Click(chromedp.CSS("[data-e2e]"))
}

// TestFirstStart: with nothing configured, three lines and one action lead to a
// traced project of the reader's own.
func TestFirstStart(t *testing.T) {
	dir := t.TempDir()
	scene := filepath.Join(dir, "drives", "Workshop", "scene")
	for name, text := range map[string]string{
		"scene.gltf":          `{"asset":{"version":"2.0"},"scenes":[{"nodes":[0]}],"nodes":[{"mesh":0}],"meshes":[{"primitives":[{"attributes":{},"material":0}]}],"materials":[{"pbrMetallicRoughness":{"baseColorTexture":{"index":0}}}],"textures":[{"source":0}],"images":[{"uri":"maps/rust%20plate.png"},{"uri":"maps/spare.png"}]}`,
		"maps/rust plate.png": "no real picture",
	} {
		p := filepath.Join(scene, name)
		if err := os.MkdirAll(filepath.Dir(p), 0o755); err != nil {
			t.Fatal(err)
		}
		if err := os.WriteFile(p, []byte(text), 0o644); err != nil {
			t.Fatal(err)
		}
	}
	a := serve(t, dir, filepath.Join(dir, "data"), false)
	p := open(t, a)
	p.visit("/")
	p.sees("Which folders do you work in?")
	p.write("folder (full path)", filepath.Join(dir, "nowhere")+enter)
	p.sees("is not a folder on this machine")
	p.expectConsole("400")
	p.write("folder (full path)", filepath.Join(dir, "drives", "Workshop")+enter)
	p.sees("Add a project")
	p.clickIn("aside", "Workshop")
	p.clickIn("aside", "scene")
	p.clickIn("aside", "scene.gltf")
	p.click("Open scene.gltf")
	p.sees("1 file missing (1 picture)")
	p.click("spare.png")
	p.sees("listed")
	// The document is damaged later: the page says so and offers to try again.
	p.idle()
	if err := os.WriteFile(filepath.Join(scene, "scene.gltf"), []byte(`{"asset":{"version":"2.0"},`), 0o644); err != nil {
		t.Fatal(err)
	}
	p.key("t")
	p.sees("The document could not be read")
	p.sees("scene.gltf")
	p.expectConsole("409")
}

// TestKeys: everything works with keys alone, and the address bar holds the
// place.
func TestKeys(t *testing.T) {
	a := serveDemo(t)
	p := open(t, a)
	p.visit("/p/1/trace")
	p.sees("Outside the project folder")
	p.idle()
	p.key("/")
	// The protocol types the character even where the page took the key, so
	// only the focus is checked of it.
	p.until("for the filter to have the keys", "document.activeElement?.type === 'search'")
	p.write("Filter", "winch")
	p.until("for the filter", "location.search.includes('filter=winch')")
	p.sees("1 reference · ")
	p.sees("winch_close.wav")
	p.key("\x1b")
	p.until("for the filter to let the keys go", "document.activeElement?.type !== 'search'")
	p.key("j")
	p.sees("Path in document")
	place := p.at()
	if !strings.Contains(place, "sel=") || !strings.Contains(place, "filter=winch") {
		t.Error(place)
	}
	p.visit(place)
	p.sees("Path in document")
	p.sees("1 reference · ")
	p.key("m")
	p.until("for Mend", "location.pathname === '/p/1/mend'")
	for i, s := range []string{"trace", "mend", "sift", "stow", "seal"} {
		p.key(strconv.Itoa(i + 1))
		p.until("for "+s, fmt.Sprintf("location.pathname === '/p/1/%s'", s))
	}
	p.key("?")
	p.sees("Keys and words")
	p.key("\x1b")
	p.seesNot("Keys and words")
	p.key("p")
	p.sees("All projects · add a project")
	p.until("for the first project", "document.activeElement?.getAttribute('role') === 'menuitem' && document.activeElement.innerText.includes('Tide Clock film')")
	p.key(enter)
	p.until("for the project", "location.pathname === '/p/1/trace'")
	p.key("n")
	if got := eval[string](p, "document.documentElement.dataset.theme"); got != "night" {
		t.Error(got)
	}
	// Every control that can be focused has a name a screen reader can say.
	if bare := eval[[]string](p, `[...document.querySelectorAll('button, a, input, textarea, [role=img], [role=progressbar]')].filter((e) => !(e.getAttribute('aria-label') || e.innerText?.trim() || e.labels?.length || e.getAttribute('alt'))).map((e) => e.outerHTML.slice(0, 120))`); len(bare) > 0 {
		t.Errorf("without a name: %v", bare)
	}
}

// TestWindow: of 50,000 rows only those on screen exist.
func TestWindow(t *testing.T) {
	dir := t.TempDir()
	drive := filepath.Join(dir, "drives", "Bench")
	var clips []string
	for i := range 50_000 {
		clips = append(clips, fmt.Sprintf(`{"OTIO_SCHEMA":"Clip.1","name":"c","media_reference":{"OTIO_SCHEMA":"ExternalReference.1","target_url":"take%%20%05d.wav"}}`, i))
	}
	text := `{"OTIO_SCHEMA":"Timeline.1","tracks":{"OTIO_SCHEMA":"Stack.1","children":[{"OTIO_SCHEMA":"Track.1","name":"A1","children":[` + strings.Join(clips, ",") + `]}]}}`
	if err := os.MkdirAll(drive, 0o755); err != nil {
		t.Fatal(err)
	}
	if err := os.WriteFile(filepath.Join(drive, "long.otio"), []byte(text), 0o644); err != nil {
		t.Fatal(err)
	}
	a := serve(t, dir, filepath.Join(dir, "data"), false)
	if err := a.store.PutDrive("Bench", drive, "fixed", false); err != nil {
		t.Fatal(err)
	}
	p := open(t, a)
	p.visit("/")
	p.clickIn("aside", "Bench")
	p.clickIn("aside", "long.otio")
	p.click("Open long.otio")
	p.sees("take 00003.wav")
	if n := eval[int](p, "document.querySelectorAll('[role=grid] [role=row]').length"); n == 0 || n > 80 {
		t.Errorf("%d rows exist at the top", n)
	}
	eval[bool](p, "(document.querySelector('[role=grid]').scrollTop = 1e9, true)")
	p.sees("take 49999.wav")
	if n := eval[int](p, "document.querySelectorAll('[role=grid] [role=row]').length"); n > 80 {
		t.Errorf("%d rows exist at the end", n)
	}
}

// TestContrast: every text colour on every ground it may stand on has at least
// 4.5:1 in both themes (WCAG 2.2 §1.4.3; relative luminance as defined there).
func TestContrast(t *testing.T) {
	a := serve(t, t.TempDir(), t.TempDir(), false)
	p := open(t, a)
	p.visit("/")
	p.sees("Which folders do you work in?")
	grounds := []string{"paper", "sheet", "band", "field"}
	pairs := [][2]string{{"onsea", "sea"}, {"headtext", "head"}, {"headfaint", "head"}, {"brass", "head"}, {"sheet", "ink"},
		{"rust", "rustwash"}, {"sea", "seawash"}, {"ochre", "ochrewash"}, {"moss", "mosswash"}, {"ink", "seawash"}, {"faint", "seawash"}, {"ink2", "mosswash"},
		{"ink", "mosswash"}, {"ink", "rustwash"}, {"ink", "ochrewash"}, {"faint", "ochrewash"}}
	for _, text := range []string{"ink", "ink2", "faint", "sea", "rust", "ochre", "moss"} {
		for _, g := range grounds {
			pairs = append(pairs, [2]string{text, g})
		}
	}
	for _, theme := range []string{"day", "night"} {
		eval[string](p, "document.documentElement.dataset.theme = '"+theme+"'")
		luminance := func(token string) float64 {
			hex := strings.TrimSpace(eval[string](p, "getComputedStyle(document.documentElement).getPropertyValue('--"+token+"')"))
			n, err := strconv.ParseUint(strings.TrimPrefix(hex, "#"), 16, 32)
			if err != nil {
				t.Fatalf("--%s is %q", token, hex)
			}
			if len(hex) == 4 {
				n = n>>8&15*0x11<<16 | n>>4&15*0x11<<8 | n&15*0x11
			}
			lin := func(v uint64) float64 {
				c := float64(v&255) / 255
				if c <= 0.04045 {
					return c / 12.92
				}
				return math.Pow((c+0.055)/1.055, 2.4)
			}
			return 0.2126*lin(n>>16) + 0.7152*lin(n>>8) + 0.0722*lin(n)
		}
		for _, pair := range pairs {
			x, y := luminance(pair[0]), luminance(pair[1])
			if r := (max(x, y) + 0.05) / (min(x, y) + 0.05); r < 4.5 {
				t.Errorf("%s: %s on %s is %.2f:1", theme, pair[0], pair[1], r)
			}
		}
	}
}

// TestManyTabs: a browser holds six lines to one server (common practice of
// HTTP/1.1 browsers). Nine tabs all load, and hear of what is decided in one;
// also when the tab that listened for all of them is gone.
func TestManyTabs(t *testing.T) {
	a := serveDemo(t)
	first := open(t, a)
	first.visit("/p/1/stow")
	first.sees("portable names")
	first.idle()
	var tabs []*page
	for range 8 {
		tab := first.tab()
		tab.visit("/p/1/stow")
		tab.sees("portable names")
		tabs = append(tabs, tab)
	}
	stays := `[...document.querySelectorAll('[role=row]')].some((r) => r.innerText.includes('clock tick.wav') && r.innerText.includes('stays'))`
	last := tabs[len(tabs)-1]
	last.press("[role=gridcell]", "clock tick.wav")
	last.until("for the row", `document.querySelector('[role=row][aria-selected=true]')`)
	last.key("x")
	for _, tab := range append([]*page{first}, tabs...) {
		tab.until("for the file to stay", stays)
	}
	last.until("for something to undo", `[...document.querySelectorAll('footer button')].some((b) => b.innerText.trim() === 'Undo' && !b.disabled)`)
	first.do(chromedp.Navigate("about:blank"))
	last.key("u")
	for i, tab := range tabs {
		tab.until(fmt.Sprintf("tab %d: for it to travel again", i), "!"+stays)
	}
}

// TestClearout: in the sample world the film reads sounds of the spoken memories,
// which must not go, and says so; a folder nobody needs is not called safe while
// a drive is out, nor while a document cannot be read. What a file's slip says of
// others is the same.
func TestClearout(t *testing.T) {
	p := open(t, serveDemo(t))
	p.visit("/clearout")
	p.sees("Can this folder be removed?")
	for _, dir := range []string{"Bench", "tide-clock", "spoken-memories"} {
		p.clickIn("aside", dir)
	}
	p.click("Check folder")
	p.sees("Not safe to remove")
	p.sees("cut-04.otio")
	p.sees("keeper on fog.wav")
	p.sees("Could not be read")
	p.sees("Shuttle")

	p.press("header button", "Shuttle")
	p.click("Plug in")
	p.key("\x1b")
	p.idle()
	p.clickIn("aside", "up")
	p.clickIn("aside", "renders")
	p.click("Check folder")
	p.sees("No known document needs it")
	p.sees("quiet hour.xspf") // a playlist that nobody can read may need anything
	p.seesNot("drive not connected")

	// The slip of a file says the same.
	p.visit("/p/1/trace")
	p.sees("Outside the project folder")
	p.idle()
	p.click("keeper on fog.wav")
	p.sees("Also needed elsewhere")
	p.sees("memories.qdpx")
}

// TestLive: what happens on the disk shows on every tab without anybody asking.
func TestLive(t *testing.T) {
	a := serveDemo(t)
	p := open(t, a)
	p.visit("/p/1/trace")
	p.sees("8 files missing")
	p.idle()
	q := p.tab()
	q.visit("/p/1/trace")
	q.sees("8 files missing")
	sound := filepath.Join(a.dir, "drives/Bench/tide-clock/film/sound/clock tick.wav")
	if err := os.Rename(sound, sound+".away"); err != nil {
		t.Fatal(err)
	}
	for _, tab := range []*page{p, q} {
		tab.sees("9 files missing")
	}
	if err := os.Rename(sound+".away", sound); err != nil {
		t.Fatal(err)
	}
	for _, tab := range []*page{p, q} {
		tab.sees("8 files missing")
	}
}

// TestHome: the film's outside files are brought into its folder, after which none
// lies outside but those of the library, and the document says so.
func TestHome(t *testing.T) {
	p := open(t, serveDemo(t))
	p.visit("/p/1/trace")
	p.sees("5 files are outside this project")
	p.idle()
	p.click("Copy outside files into project")
	p.sees("lens flare plate.png")
	p.click("Copy 3 files")
	p.sees("2 files are outside this project") // those of the library
	p.idle()
	p.sees("8 files missing")
	p.click("Log")
	p.do(clickExact(p, "work done"))
	p.sees("3 files copied")
}

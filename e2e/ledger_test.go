package e2e

import (
	"encoding/json"
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/chromedp/chromedp"
)

// bare serves an application of one drive that holds the given files.
func bare(t *testing.T, files map[string]string) served {
	t.Helper()
	dir := t.TempDir()
	for name, text := range files {
		p := filepath.Join(dir, "drives", "Bench", name)
		if err := os.MkdirAll(filepath.Dir(p), 0o755); err != nil {
			t.Fatal(err)
		}
		if err := os.WriteFile(p, []byte(text), 0o644); err != nil {
			t.Fatal(err)
		}
	}
	a := serve(t, dir, filepath.Join(dir, "data"), false)
	if err := a.store.PutDrive("Bench", filepath.Join(dir, "drives", "Bench"), "fixed", false); err != nil {
		t.Fatal(err)
	}
	return a
}

// narrow tells what of a page is cut off or leads out of a window at its width, and lists of fewer
// than eight rows in sight (WCAG 2.2 §1.4.10).
const narrow = `(() => {
	const wrong = [];
	if (document.documentElement.scrollWidth > document.documentElement.clientWidth) {
		const wide = [...document.querySelectorAll('body *')].filter((e) => e.getBoundingClientRect().right > document.documentElement.clientWidth + 1 && !e.closest('.overflow-auto, [class*=overflow-x-auto], [class*=overflow-hidden], [class*=truncate], .sr-only'));
		wrong.push('the page is ' + document.documentElement.scrollWidth + ' wide: ' + wide.slice(0, 3).map((e) => e.outerHTML.slice(0, 120)).join(' | '));
	}
	for (const g of document.querySelectorAll('[role=grid]')) if (g.clientHeight < 24 + 8 * 28) wrong.push(g.getAttribute('aria-label') + ' is ' + g.clientHeight + ' high');
	return wrong;
})()`

// TestAxe: axe-core (npm) finds nothing serious on any main view, by day and by
// night, and in narrow windows, where nothing is cut off.
func TestAxe(t *testing.T) {
	src, err := os.ReadFile(filepath.Join("..", "web", "node_modules", "axe-core", "axe.min.js"))
	if err != nil {
		t.Skip("axe-core is not installed: run npm install in web")
	}
	a := serveDemo(t)
	p := open(t, a)
	for _, v := range []struct{ path, sees string }{
		{"/", "Documents that can be opened"}, {"/p/1/trace", "Outside the project folder"}, {"/p/1/trace?list=documents", "not found"}, {"/p/1/mend", "Where should Bound Crate search?"},
		{"/p/1/sift", "Sizes by kind"}, {"/p/1/stow", "portable names"}, {"/p/1/seal", "Ready to seal"}, {"/rules", "Gallery player loop"}, {"/receive", "Which crate?"}, {"/compare", "Which two?"},
		{"/p/1/points", "lead out of the project"}, {"/p/2/inside", "weather stain"}, {"/drives", "free of"}, {"/doctor", "data folder"}, {"/habits", "Naming habits"}, {"/clearout", "Can this folder be removed?"},
		{"/p/1/keep", "is current"}, {"/p/1/keep?edition=1", "Save a copy"}, {"/p/1/keep?view=backups", "No backup yet"}, {"/p/16/set", "1 new file"},
	} {
		p.do(chromedp.EmulateViewport(1280, 800))
		p.visit(v.path)
		p.sees(v.sees)
		p.idle()
		eval[bool](p, string(src)+";true")
		// What a page says is the same by night and in narrow windows; its colours and its layout are not.
		for _, look := range []struct {
			theme       string
			wide, large int64
			only        string
		}{{"day", 1280, 800, ""}, {"night", 1280, 800, colours}, {"day", 640, 400, layout}, {"day", 320, 640, layout}} {
			p.do(chromedp.EmulateViewport(look.wide, look.large))
			eval[bool](p, fmt.Sprintf("(localStorage.setItem('theme', %q), document.documentElement.dataset.theme = %q, true)", look.theme, look.theme))
			if look.wide < 1280 {
				for _, wrong := range eval[[]string](p, narrow) {
					t.Errorf("%s at %d: %s", v.path, look.wide, wrong)
				}
			}
			axe(p, look.only, fmt.Sprintf("%s by %s at %d", v.path, look.theme, look.wide))
		}
	}
	for _, v := range []struct{ path, sees, act string }{
		{"/p/1/mend", "Choose by hand", "Add folder"}, {"/p/1/mend", "Choose by hand", "Set aside"}, {"/p/1/mend", "Choose by hand", "Choose by hand"},
		{"/p/1/stow", "Options", "Options"}, {"/p/1/stow", "Options", "Recipes"}, {"/p/1/trace", "Copy outside files", "Copy outside files into project"}, {"/", "Documents that can be opened", "All keys"}, {"/settings", "Appearance", ""},
	} {
		for _, wide := range []int64{1280, 640, 320} {
			p.do(chromedp.EmulateViewport(wide, 640))
			p.visit(v.path)
			p.sees(v.sees)
			p.idle()
			if v.act != "" {
				p.click(v.act)
			}
			p.idle()
			for _, wrong := range eval[[]string](p, cutOff) {
				t.Errorf("%s, %s at %d: %s", v.path, v.act, wide, wrong)
			}
			eval[bool](p, string(src)+";true")
			axe(p, map[bool]string{false: layout}[wide == 1280], fmt.Sprintf("%s, %s at %d", v.path, v.act, wide))
		}
	}
}

// cutOff tells of a dialog that reaches out of the window, and of its buttons that do.
const cutOff = `[...document.querySelectorAll('[role=dialog], [role=dialog] button')].flatMap((e) => {
	const r = e.getBoundingClientRect();
	const within = e.closest('.overflow-auto');
	return r.width > 0 && !(within && e.matches('button')) && (r.left < -1 || r.right > innerWidth + 1 || r.top < -1 || r.bottom > innerHeight + 1) ? [e.outerHTML.slice(0, 120)] : [];
})`

// Rules of axe-core that ask for colours, and for what a window's width decides.
const (
	colours = `runOnly: ['color-contrast'], `
	layout  = `runOnly: ['color-contrast', 'target-size', 'scrollable-region-focusable'], `
)

// axe fails where axe-core, which the page has, finds something serious on it as it is; by some rules alone, or by all.
func axe(p *page, only, where string) {
	p.t.Helper()
	eval[bool](p, `(window.axed = null, axe.run(document, { `+only+`resultTypes: ['violations'], rules: { 'target-size': { enabled: true } } }).then((r) => { window.axed = r.violations.filter((v) => v.impact === 'serious' || v.impact === 'critical').map((v) => v.id + ': ' + v.nodes.slice(0, 3).map((n) => n.html.slice(0, 160)).join(' | ')); }), true)`)
	p.until("for axe", "window.axed !== null")
	if found := eval[[]string](p, "window.axed"); len(found) > 0 {
		p.t.Errorf("%s: %s", where, strings.Join(found, "\n  "))
	}
}

// TestLedger: columns are chosen and remembered, heads sort, several rows are
// chosen with keys and acted on at once, and the keys can be turned off.
func TestLedger(t *testing.T) {
	a := serveDemo(t)
	p := open(t, a)
	p.visit("/p/1/trace")
	p.sees("Outside the project folder")
	p.idle()
	heads := func() string {
		return eval[string](p, `[...document.querySelectorAll('[role=columnheader]')].map((e) => e.innerText.trim()).join(' ')`)
	}
	if got := heads(); got != "state file where kind size uses" {
		t.Error(got)
	}
	p.key("o")
	p.until("for the columns", `document.querySelectorAll('[role=menuitemcheckbox]').length > 5`)
	p.press("[role=menuitemcheckbox]", "origin")
	p.press("[role=menuitemcheckbox]", "kind")
	p.key("\x1b")
	p.visit(p.at())
	p.sees("Outside the project folder")
	p.until("for the columns to be remembered", `[...document.querySelectorAll('[role=columnheader]')].map((e) => e.innerText.trim()).join(' ') === 'state file where origin size uses'`)

	// By size, largest last, without headings.
	p.do(clickExact(p, "one list"))
	p.press("[role=columnheader] button", "size")
	p.until("for the order", `document.querySelector('[role=columnheader][aria-sort=ascending]')?.innerText.includes('size')`)
	p.press("[role=columnheader] button", "size")
	p.until("for the order to turn", `document.querySelector('[role=columnheader][aria-sort=descending]')?.innerText.includes('size') && location.search.includes('sort=-size')`)

	// Two tabs: what is decided in one is seen in the other.
	q := open(t, a)
	q.visit("/p/1/stow")
	q.sees("portable names")
	q.idle()
	q.press("[role=gridcell]", "clock tick.wav")
	q.until("for the row", `document.querySelector('[role=row][aria-selected=true]')`)
	p.visit("/p/1/stow")
	p.sees("portable names")
	q.key("x")
	for _, tab := range []*page{q, p} {
		tab.until("for the file to stay", `[...document.querySelectorAll('[role=row]')].some((r) => r.innerText.includes('clock tick.wav') && r.innerText.includes('stays'))`)
	}
	p.key("u")
	q.until("for it to travel again", `![...document.querySelectorAll('[role=row]')].some((r) => r.innerText.includes('clock tick.wav') && r.innerText.includes('stays'))`)

	// All rows at once, by keys alone.
	p.key("a")
	p.sees("rows chosen")
	p.write("Folder in the crate", "all of it"+enter)
	p.until("for the folder", `[...document.querySelectorAll('input[aria-label^="Folder of"]')].filter((e) => e.value === 'all of it').length > 5`)
	p.key("\x1b")
	p.sees("all of it/")

	// What is held down acts once; with single keys off, letters do nothing.
	before := p.at()
	eval[bool](p, `(document.body.dispatchEvent(new KeyboardEvent('keydown', { key: '1', code: 'Digit1', bubbles: true, repeat: true })), true)`)
	if p.at() != before {
		t.Error("a key that is held down acted again")
	}
	p.click("All keys")
	p.click("Single-letter keys on")
	p.click("Close")
	p.key("1")
	p.key("?")
	if p.at() != before || eval[bool](p, "!!document.querySelector('[role=dialog]')") {
		t.Error("a single key acted though they are off")
	}
}

// TestPages: every view has one h1 and a title of its own, and takes the focus
// when one comes to it.
func TestPages(t *testing.T) {
	a := serveDemo(t)
	p := open(t, a)
	p.visit("/")
	p.sees("Documents that can be opened")
	p.idle()
	p.do(clickLink(p, "Tide Clock film"))
	titles := map[string]bool{}
	for _, s := range []string{"Trace", "Mend", "Sift", "Stow", "Seal"} {
		if s != "Trace" {
			p.press("nav a", s)
		}
		p.until("for the title of "+s, fmt.Sprintf("document.title === %q", s+" · Tide Clock film · Bound Crate"))
		p.until("for the focus in "+s, "document.activeElement?.tagName === 'H1'")
		if n := eval[int](p, "document.querySelectorAll('h1').length"); n != 1 {
			t.Errorf("%s has %d h1", s, n)
		}
		titles[eval[string](p, "document.title")] = true
	}
	if len(titles) != 5 {
		t.Error(titles)
	}
}

// TestSeveralDocuments: an assembly and a list beside it are one project: chosen
// together, traced, mended and sealed into one crate.
func TestSeveralDocuments(t *testing.T) {
	list := func(names ...string) string { return "#EXTM3U\n" + strings.Join(names, "\n") + "\n" }
	a := bare(t, map[string]string{
		"job/assembly.m3u": list("parts/a.wav", "parts/shared.wav"), "job/drawings.m3u": list("parts/shared.wav", "parts/lost.wav"),
		"job/parts/a.wav": "a", "job/parts/shared.wav": "shared", "job/old/lost.wav": "lost",
	})
	p := open(t, a)
	p.visit("/")
	p.clickIn("aside", "Bench")
	p.clickIn("aside", "job")
	p.clickIn("aside", "assembly.m3u")
	p.clickIn("aside", "drawings.m3u")
	p.sees("2 documents")
	p.click("Open 2 documents")
	p.sees("1 file missing")
	p.idle()
	p.sees("assembly.m3u and 1 more")
	p.click("shared.wav")
	p.sees("Used 2 times, in 2 documents")
	p.expectConsole("422") // these sounds are no sounds
	p.station("Mend")
	p.sees("Where should Bound Crate search?")
	p.click("Search these folders") // the likeliest folder is chosen already
	p.until("for the candidate", `document.body.innerText.includes('old') && document.body.innerText.includes('possible')`)
	p.idle()
	p.click("Use this file")
	p.sees("Nothing is missing")
	p.expectConsole("422")
	p.station("Seal")
	p.sees("All files in use were found")
	p.click("Seal crate")
	p.sees("Sealed and proved complete")
	judge(t, a.path("Bench/job crate"), "sha256sum", "--strict", "--quiet", "-c", "manifest-sha256.txt")
	for _, d := range []string{"assembly.m3u", "drawings.m3u"} {
		if b, err := os.ReadFile(a.path("Bench/job crate/data/" + d)); err != nil || !strings.Contains(string(b), "audio/shared.wav") {
			t.Errorf("%s: %q %v", d, b, err)
		}
	}
}

// TestManyMissing: of 50,000 files to find only those on screen exist, the list
// is scrolled to its end, and its longest frame is told. That it stays below
// 50 ms is looked at, not asserted: the machine has a say in it.
func TestManyMissing(t *testing.T) {
	var clips []string
	for i := range 50_000 {
		clips = append(clips, fmt.Sprintf("lost/take %05d.wav", i))
	}
	a := bare(t, map[string]string{"long.m3u": "#EXTM3U\n" + strings.Join(clips, "\n") + "\n"})
	p := open(t, a)
	p.visit("/")
	p.clickIn("aside", "Bench")
	p.clickIn("aside", "long.m3u")
	p.click("Open long.m3u")
	p.sees("50,000 files missing")
	p.idle()
	p.station("Mend")
	p.sees("50,000 files missing")
	p.sees("take 00003.wav")
	eval[bool](p, `(() => {
		window.frames_ = [];
		const list = document.querySelector('[role=grid]');
		let last = performance.now();
		let n = 0;
		const step = (now) => {
			window.frames_.push(now - last);
			last = now;
			if (++n > 150) { window.scrolled = true; return; }
			list.scrollTop += n < 120 ? 700 : 1e5;
			requestAnimationFrame(step);
		};
		requestAnimationFrame(step);
		return true;
	})()`)
	p.until("for the scrolling to end", "window.scrolled")
	eval[bool](p, "(document.querySelector('[role=grid]').scrollTop = 1e9, true)")
	p.sees("take 49999.wav")
	if n := eval[int](p, "document.querySelectorAll('[role=grid] [role=row]').length"); n > 80 {
		t.Errorf("%d rows exist", n)
	}
	var frames []float64
	if err := json.Unmarshal([]byte(eval[string](p, "JSON.stringify(window.frames_.slice(1).sort((a, b) => b - a).slice(0, 5).map((f) => Math.round(f)))")), &frames); err != nil {
		t.Fatal(err)
	}
	t.Logf("the longest of 150 frames took %v ms", frames)
}

// TestFewRequests: a change of choices asks for what is on screen and leans on them, and for no
// more.
func TestFewRequests(t *testing.T) {
	p := open(t, serveDemo(t))
	p.visit("/p/1/stow")
	p.sees("Folders")
	p.quiet()
	for _, x := range []struct{ what, list, choice, then string }{
		{"layout", "[role=radio]", "one folder", `document.querySelectorAll('[aria-label="Folders of the crate"] li').length <= 2`},
		{"and back", "[role=radio]", "by kind", `document.querySelectorAll('[aria-label="Folders of the crate"] li').length > 2`},
	} {
		eval[bool](p, "(performance.clearResourceTimings(), true)")
		p.press(x.list, x.choice)
		p.until("for "+x.what, x.then)
		p.quiet()
		// What takes longer than an answer may is fetched once it is there, as the result of a job.
		if asked := eval[[]string](p, `performance.getEntriesByType('resource').filter((e) => e.initiatorType === 'fetch' && !/\/api\/jobs\/.*\/result$/.test(e.name)).map((e) => Math.round(e.startTime) + " " + e.name)`); len(asked) > 4 || len(asked) < 2 {
			t.Errorf("%s: %d requests\n%s", x.what, len(asked), strings.Join(asked, "\n"))
		}
	}
}

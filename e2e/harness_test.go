// Package e2e drives the real interface in headless Chromium, on the sample
// world and on folders of its own.
package e2e

import (
	"context"
	"encoding/json"
	"fmt"
	"net/http/httptest"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"

	"boundcrate/app"
	"boundcrate/demo"
	"boundcrate/server"
	"boundcrate/store"
	"boundcrate/web"
)

// patience bounds every single wait. It is no timing check: it only keeps a
// broken page from holding the suite.
var patience = 40 * time.Second

// TestMain keeps what is rendered for the sample world, of which every test has its own.
func TestMain(m *testing.M) {
	demo.KeepRendered()
	code := m.Run()
	endBrowser()
	os.Exit(code)
}

// served is a served application.
type served struct {
	url   string
	dir   string // of the sample world, or of the drives
	store *store.Store
	http  *httptest.Server
}

// path is a file of the sample world: "Bench/…".
func (a served) path(p string) string { return filepath.Join(a.dir, "drives", p) }

// serveDemo writes a sample world of its own and serves it.
func serveDemo(t *testing.T) served {
	t.Helper()
	dir := t.TempDir()
	if err := demo.Write(t.Context(), dir); err != nil {
		t.Fatal(err)
	}
	return serve(t, dir, demo.DataDir(dir), true)
}

// impatient serves one before which whatever may take long goes on as a job at once.
func impatient(t *testing.T) served {
	t.Helper()
	dir := t.TempDir()
	if err := demo.Write(t.Context(), dir); err != nil {
		t.Fatal(err)
	}
	return serving(t, dir, demo.DataDir(dir), app.Options{Demo: true, Patience: time.Nanosecond})
}

func serve(t *testing.T, dir, data string, isDemo bool) served {
	t.Helper()
	return serving(t, dir, data, app.Options{Demo: isDemo})
}

func serving(t *testing.T, dir, data string, o app.Options) served {
	t.Helper()
	s, err := store.Open(data)
	if err != nil {
		t.Fatal(err)
	}
	o.Store = s
	ctx, stop := context.WithCancel(context.Background())
	a, h, err := server.New(ctx, server.Options{App: o, Files: web.Files()})
	if err != nil {
		t.Fatal(err)
	}
	hs := httptest.NewServer(h)
	t.Cleanup(func() {
		stop()
		a.Wait()
		hs.CloseClientConnections()
		hs.Close()
		s.Close()
	})
	return served{hs.URL, dir, s, hs}
}

// page is one browser tab. What the page writes to the console as an error
// fails the test: a blocked style, a failed request, an exception.
type page struct {
	t   *testing.T
	ctx context.Context
	app served

	mu     sync.Mutex
	errors []string
}

// browser is the one Chromium of all tests; it is started when the first needs it, and ends with them.
var browser = sync.OnceValues(func() (context.Context, error) {
	exe := ""
	for _, name := range []string{"chromium", "chromium-browser", "google-chrome"} {
		if p, err := exec.LookPath(name); err == nil {
			exe = p
			break
		}
	}
	if exe == "" {
		return nil, nil
	}
	alloc, _ := chromedp.NewExecAllocator(context.Background(),
		chromedp.ExecPath(exe), chromedp.NoSandbox, chromedp.DisableGPU, chromedp.Headless, chromedp.NoFirstRun,
		chromedp.Flag("disable-background-networking", true), chromedp.Flag("disable-component-update", true), chromedp.Flag("disable-sync", true),
		chromedp.Flag("disable-quic", true), chromedp.Flag("hide-scrollbars", false), chromedp.Flag("force-color-profile", "srgb"), chromedp.WindowSize(1280, 800))
	ctx, end := chromedp.NewContext(alloc)
	endBrowser = end
	return ctx, chromedp.Do(ctx)
})

// endBrowser ends it.
var endBrowser = func() {}

// open is a tab of a browser that remembers nothing of other tests.
func open(t *testing.T, a served) *page {
	t.Helper()
	within, err := browser()
	if err != nil {
		t.Fatal(err)
	}
	if within == nil {
		t.Skip("no Chromium is installed; make test installs it where it may")
	}
	if _, err := web.Files().Open("index.html"); err != nil {
		t.Fatal("the interface is not built; run make build")
	}
	ctx, end := chromedp.NewContext(within, chromedp.WithNewBrowserContext())
	t.Cleanup(end)
	return watch(&page{t: t, ctx: ctx, app: a})
}

// tab opens another tab of the same browser.
func (p *page) tab() *page {
	p.t.Helper()
	ctx, end := chromedp.NewContext(p.ctx)
	p.t.Cleanup(end)
	return watch(&page{t: p.t, ctx: ctx, app: p.app})
}

// watch begins to keep what the page writes to the console.
func watch(p *page) *page {
	t := p.t
	t.Helper()
	p.do(chromedp.EmulateViewport(1280, 800))
	go func() {
		for m := range chromedp.Console(p.ctx) {
			if m.IsException() || m.Type == "error" {
				p.mu.Lock()
				p.errors = append(p.errors, m.String()+" "+m.URL)
				p.mu.Unlock()
			}
		}
	}()
	t.Cleanup(func() {
		p.mu.Lock()
		defer p.mu.Unlock()
		if len(p.errors) > 0 {
			t.Errorf("the console has errors: %s", strings.Join(p.errors, "; "))
		}
	})
	return p
}

// expectConsole forgets console errors that hold a word: those a test provokes.
func (p *page) expectConsole(word string) {
	p.mu.Lock()
	defer p.mu.Unlock()
	var rest []string
	for _, e := range p.errors {
		if !strings.Contains(e, word) {
			rest = append(rest, e)
		}
	}
	p.errors = rest
}

func (p *page) do(steps ...chromedp.Action[chromedp.Void]) {
	p.t.Helper()
	// The first run allocates the browser, which lives as long as its context.
	ctx := p.ctx
	if chromedp.FromContext(ctx).Target != nil {
		c, cancel := context.WithTimeout(ctx, patience)
		defer cancel()
		ctx = c
	}
	if err := chromedp.Do(ctx, steps...); err != nil {
		p.fail(err)
	}
}

// fail keeps a picture of what the page showed.
func (p *page) fail(err error) {
	p.t.Helper()
	text, _ := chromedp.Run(p.ctx, chromedp.Evaluate[string]("document.body.innerText"))
	if dir := os.Getenv("E2E_PICTURES"); dir != "" {
		if b, err := chromedp.Run(p.ctx, chromedp.CaptureScreenshot()); err == nil {
			_ = os.WriteFile(filepath.Join(dir, strings.ReplaceAll(p.t.Name(), "/", "-")+".png"), b, 0o644)
		}
	}
	p.t.Fatalf("%v\nthe page shows:\n%s", err, text)
}

func (p *page) visit(path string) {
	p.t.Helper()
	p.do(chromedp.Navigate(p.app.url + path))
}

// eval runs a script and returns what it gives.
func eval[T any](p *page, js string) T {
	p.t.Helper()
	v, err := chromedp.Run(p.ctx, chromedp.Evaluate[T](js))
	if err != nil {
		p.fail(err)
	}
	return v
}

// waiting looks in the page itself, when something of it changed and now and then, for up to a second: to ask from
// here again and again would keep the browser busy.
const waiting = `new Promise((done) => {
	const is = () => { try { return !!(%s); } catch { return false; } };
	if (is()) return done(true);
	let changed = false, ticks = 0;
	const seen = new MutationObserver(() => { changed = true; });
	seen.observe(document, { subtree: true, childList: true, attributes: true, characterData: true });
	const look = setInterval(() => {
		ticks++;
		const now = (changed || ticks %% 5 === 0) && is();
		changed = false;
		if (now || ticks > 20) { clearInterval(look); seen.disconnect(); done(now); }
	}, 50);
})`

// until waits for a script to be true.
func (p *page) until(what, js string) {
	p.t.Helper()
	for end := time.Now().Add(patience); ; {
		ctx, cancel := context.WithTimeout(p.ctx, 10*time.Second) // a page that goes away answers never
		ok, err := chromedp.Run(ctx, chromedp.Evaluate[bool](fmt.Sprintf(waiting, js), chromedp.EvalAwaitPromise))
		cancel()
		if err == nil && ok {
			return
		}
		if time.Now().After(end) {
			p.fail(fmt.Errorf("waited in vain: %s (%v)", what, err))
		}
		if err != nil {
			time.Sleep(40 * time.Millisecond)
		}
	}
}

// sees waits until the page shows a text, whatever letters its styles use.
func (p *page) sees(text string) {
	p.t.Helper()
	p.until("to see "+text, fmt.Sprintf("document.body.innerText.toLowerCase().includes(%q.toLowerCase())", text))
}

func (p *page) seesNot(text string) {
	p.t.Helper()
	p.until("not to see "+text, fmt.Sprintf("!document.body.innerText.toLowerCase().includes(%q.toLowerCase())", text))
}

// mark tags the first enabled element that a person would call so (by its
// words or its accessible name) and returns a selector for it.
func (p *page) mark(selector, name string) chromedp.CSS {
	p.t.Helper()
	js := fmt.Sprintf(`(() => {
		document.querySelectorAll('[data-e2e]').forEach((e) => e.removeAttribute('data-e2e'));
		const words = (e) => [e.getAttribute('aria-label') ?? '', ...[...(e.labels ?? [])].map((l) => l.innerText), e.innerText].join(' ');
		const all = [...document.querySelectorAll(%q)].filter((e) => !e.disabled && e.getClientRects().length > 0 && words(e).toLowerCase().includes(%q.toLowerCase()));
		all.sort((a, b) => words(a).length - words(b).length);
		all[0]?.setAttribute('data-e2e', '1');
		return all.length > 0;
	})()`, selector, name)
	p.until("for "+selector+" “"+name+"”", js)
	return chromedp.CSS("[data-e2e]")
}

func (p *page) click(name string) {
	p.t.Helper()
	p.press("button, a, [role=grid] [role=row][aria-selected], [role=menuitem]", name)
}

// clickIn clicks within a part of the page.
func (p *page) clickIn(within, name string) {
	p.t.Helper()
	p.press(within+" button", name)
}

// station goes to a page of the project, and waits until it is that page.
func (p *page) station(name string) {
	p.t.Helper()
	p.press("nav a", name)
	p.until("for "+name, fmt.Sprintf("document.querySelector('main')?.getAttribute('aria-label') === %q", name))
}

// steady waits until what is marked stays where it is, as a person would.
const steady = `new Promise((done) => {
	let was = '';
	const look = () => {
		const r = document.querySelector('[data-e2e]')?.getBoundingClientRect();
		const now = r ? [r.x, r.y].join() : '';
		if (now === was) return done(true);
		was = now;
		setTimeout(look, 50);
	};
	look();
})`

// press clicks; a page that renders anew in between is tried again.
func (p *page) press(selector, name string) {
	p.t.Helper()
	var err error
	for range 5 {
		sel := p.mark(selector, name)
		ctx, cancel := context.WithTimeout(p.ctx, 8*time.Second) // a click that came late must not be done twice
		if _, err = chromedp.Run(ctx, chromedp.Evaluate[bool](steady, chromedp.EvalAwaitPromise)); err == nil {
			err = chromedp.Do(ctx, chromedp.Click(sel))
		}
		cancel()
		if err == nil {
			return
		}
	}
	p.fail(fmt.Errorf("%s “%s”: %w", selector, name, err))
}

// write types over what stands in a field.
func (p *page) write(label, text string) {
	p.t.Helper()
	sel := p.mark("input, textarea", label)
	p.do(chromedp.Focus(sel))
	eval[bool](p, "(document.activeElement.select?.(), true)")
	p.do(chromedp.KeyEvent(text))
}

// folder types a path into a picker of the slip.
func (p *page) folder(path string) {
	p.t.Helper()
	p.until("for the picker", `document.querySelector('aside button[aria-label$="Type a path"]')?.click() === undefined && document.querySelector('aside input[aria-label=Path]') !== null`)
	p.write("Path", path+enter)
	p.until("for the folder", fmt.Sprintf(`document.querySelector('aside button[aria-label$="Type a path"]')?.dataset.tip === %q`, path))
}

// paste puts a text in the place of all that stands in an editor.
func (p *page) paste(label, text string) {
	p.t.Helper()
	p.do(chromedp.Focus(p.mark(".cm-content", label)))
	// Of a long text only a part is drawn: the editor itself selects it all.
	eval[bool](p, `(document.activeElement.dispatchEvent(new KeyboardEvent('keydown', { key: 'a', code: 'KeyA', keyCode: 65, ctrlKey: true, bubbles: true, cancelable: true })), true)`)
	time.Sleep(100 * time.Millisecond) // the editor hears of the selection later
	eval[bool](p, fmt.Sprintf(`(() => {
		const data = new DataTransfer();
		data.setData('text/plain', %q);
		document.activeElement.dispatchEvent(new ClipboardEvent('paste', { clipboardData: data, bubbles: true, cancelable: true }));
		return true;
	})()`, text))
}

// lookIn chooses these folders in Mend, and no others.
func (p *page) lookIn(names ...string) {
	p.t.Helper()
	want, _ := json.Marshal(names)
	p.until("for the folders to choose", fmt.Sprintf(`(() => {
		const chips = [...document.querySelectorAll('[aria-label="Folders to search"] [aria-pressed]')];
		const want = %s;
		if (!want.every((w) => chips.some((c) => c.innerText === w))) return false;
		const wrong = chips.find((c) => (c.getAttribute('aria-pressed') === 'true') !== want.includes(c.innerText));
		wrong?.click();
		return !wrong;
	})()`, want))
}

// rows is how many files a list is said to have, whatever part of it is drawn.
func rows(list string) string {
	return fmt.Sprintf(`(Number(document.querySelector('[role=grid][aria-label="%s"]')?.getAttribute('aria-rowcount') ?? 1) - 1)`, list)
}

func (p *page) key(k string) {
	p.t.Helper()
	// What is drawn is heard of by its keys a moment later: React runs effects after the paint.
	eval[bool](p, `(window.drawn = false, requestAnimationFrame(() => requestAnimationFrame(() => setTimeout(() => { window.drawn = true; }))), true)`)
	p.until("for the page to hear keys", "window.drawn")
	p.do(chromedp.KeyEvent(k))
}

// path is where the address bar is.
func (p *page) at() string { return eval[string](p, "location.pathname + location.search") }

func (p *page) shot() []byte {
	p.t.Helper()
	eval[bool](p, "document.activeElement?.blur(), document.fonts.ready.then(() => true), true")
	time.Sleep(250 * time.Millisecond) // let pictures and waveforms be drawn
	b, err := chromedp.Run(p.ctx, chromedp.CaptureScreenshot())
	if err != nil {
		p.fail(err)
	}
	return b
}

var enter = kb.Enter

// idle waits until no work is running.
func (p *page) idle() {
	p.t.Helper()
	p.until("for work to end", `!document.querySelector('footer [role=progressbar]')`)
}

// mendRest uses the best candidate for whatever is still missing.
func (p *page) mendRest() {
	p.t.Helper()
	for range 12 {
		p.station("Mend")
		p.until("for Mend", rows("Missing files")+` > 0 || document.body.innerText.includes('Nothing is missing')`)
		p.idle()
		if eval[bool](p, "document.body.innerText.includes('Nothing is missing')") {
			return
		}
		before := eval[int](p, rows("Missing files"))
		p.click("Use this")
		p.until("for one less to find", fmt.Sprintf("%s < %d", rows("Missing files"), before))
	}
}

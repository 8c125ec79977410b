package e2e

import (
	"bytes"
	"fmt"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"

	"github.com/chromedp/chromedp"

	"boundcrate/app/api"
)

// onPaper is the text of the page as the browser prints it, sheet by sheet, read back by pdftotext
// (poppler). Without that program the test is skipped.
func (p *page) onPaper() []string {
	p.t.Helper()
	if _, err := exec.LookPath("pdftotext"); err != nil {
		p.t.Skip("no pdftotext is installed; make test installs it where it may")
	}
	pdf, err := chromedp.Run(p.ctx, chromedp.PrintToPDF())
	if err != nil {
		p.fail(err)
	}
	cmd := exec.Command("pdftotext", "-layout", "-", "-")
	cmd.Stdin = bytes.NewReader(pdf)
	text, err := cmd.Output()
	if err != nil {
		p.t.Fatal(err)
	}
	return strings.Split(strings.TrimRight(string(text), "\f"), "\f")
}

// TestPrinted: a list is printed whole, with its heads on every sheet, whatever files are called;
// what is on screen besides the sheet is not printed.
func TestPrinted(t *testing.T) {
	var list strings.Builder
	files := map[string]string{}
	for i := range 300 {
		name := fmt.Sprintf("take-%03d.wav", i)
		files["film/"+name] = "x"
		fmt.Fprintln(&list, name)
	}
	list.WriteString("<b>&amp;.wav\n")
	files["film/cut.m3u"] = "#EXTM3U\n" + list.String()
	a := bare(t, files)
	p := open(t, a)
	ask[api.Project](t, a, "POST", "/api/projects", api.NewProject{Documents: []string{a.path("Bench/film/cut.m3u")}})
	p.visit("/api/projects/1/print/files?group=none")
	sheets := p.onPaper()
	if len(sheets) < 5 {
		t.Errorf("%d sheets", len(sheets))
	}
	all := strings.Join(sheets, "\n")
	for name := range files {
		if name = filepath.Base(name); name != "cut.m3u" && strings.Count(all, name) != 1 {
			t.Errorf("%s is printed %d times", name, strings.Count(all, name))
		}
	}
	if !strings.Contains(all, "<b>&amp;.wav") {
		t.Error("the name that is HTML is not printed as it is")
	}
	for i, s := range sheets {
		if strings.TrimSpace(s) != "" && !strings.Contains(s, "folder") {
			t.Errorf("sheet %d has no heads: %.200s", i+1, s)
		}
	}
	p.visit("/p/1/trace")
	p.sees("take-001.wav")
	p.idle()
	if all := strings.Join(p.onPaper(), "\n"); !strings.Contains(all, "take-001.wav") || strings.Contains(all, "Trace again") {
		t.Errorf("the page is printed as\n%.2000s", all)
	}
}

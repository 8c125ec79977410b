package e2e
import ("testing";"os";"os/exec";"github.com/chromedp/chromedp";"boundcrate/demo")
func TestX(t *testing.T){
 dir := "/tmp/demo"; os.RemoveAll(dir)
 if err := demo.Write(t.Context(), dir); err != nil { t.Fatal(err) }
 out, err := exec.Command("../bin/boundcrate","seal","--data","/tmp/demo/d2","--note","Mix by Friday.\nPlease keep the hum.","--out","/tmp/demo/crate", "/tmp/demo/drives/Bench/tide-clock/film/cut-04.otio").CombinedOutput()
 t.Log(string(out), err)
 out, err = exec.Command("../bin/boundcrate","sheet","--out","/tmp/demo/s.html", "/tmp/demo/crate").CombinedOutput()
 t.Log(string(out), err)
 a:=bare(t,nil); p:=open(t,a)
 p.do(chromedp.Navigate("file:///tmp/demo/s.html"))
 pdf, err := chromedp.Run(p.ctx, chromedp.PrintToPDF())
 os.WriteFile("/tmp/demo/s.pdf", pdf, 0o644)
 os.WriteFile("/tmp/x.png", p.shot(), 0o644)
}

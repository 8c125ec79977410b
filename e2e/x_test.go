package e2e
import ("testing";"os";"time")
func TestX(t *testing.T){
 a:=serveDemo(t); p:=open(t,a)
 p.visit("/p/1/seal"); p.sees("Ready to seal"); p.idle()
 os.WriteFile("/tmp/x1.png", p.shot(), 0o644)
 p.clickIn("aside","Seal crate"); p.until("sealed","document.body.innerText.includes('Sealed, but not complete')"); p.idle()
 os.WriteFile("/tmp/x2.png", p.shot(), 0o644)
 p.until("send","document.querySelector('[aria-label=\"Send to\"]') !== null")
 eval[bool](p, "(document.querySelector('[aria-label=\"Send to\"]').scrollIntoView(), true)")
 os.WriteFile("/tmp/x3.png", p.shot(), 0o644)
 p.visit("/api/projects/1/sheet"); time.Sleep(300*time.Millisecond)
 os.WriteFile("/tmp/x4.png", p.shot(), 0o644)
 p.visit("/receive"); p.sees("Which crate"); p.idle()
 os.WriteFile("/tmp/x5.png", p.shot(), 0o644)
}

package html

import (
	"testing"

	"boundcrate/core/text/format/formattest"
)

const sample = `<!DOCTYPE html>
<html lang=en><head><meta charset="utf-8"><title>a &lt;img src="no.png"&gt;</title>
<link rel="stylesheet" href="style%20sheet.css?v=3"><link rel=icon href=icon.svg><link rel="canonical" href="no.html">
<link rel="alternate stylesheet" href="night.css"><script src="app.mjs" type=module></script>
<style>@import "more.css"; body { background: url(paper.png) } /* url(no.png) */</style>
<!-- <img src="no.png"> --></head>
<body background="wall.gif"><a href="no.html">link</a>
<img src="gull &amp; fog.jpg" srcset="small.jpg 480w, large,one.jpg 2x,last.jpg" alt="src='no.png'">
<IMG SRC='Horn.PNG'><img src=plain.png><img src="data:image/gif;base64,R0lGODlhAQABAAAAACw=">
<p style="background: url(&quot;a b.png&quot;)">x</p><p style='background:url(c.png)'>y</p>
<video poster="still.jpg" src="film.mp4"><track src="words.vtt"></video>
<picture><source srcset="wide.webp" type="image/webp"></picture><input type=image src=go.png><input src=no.png>
<svg><image href="chart.png"/><use xlink:href="parts.svg#arrow"/><use href="#own"/></svg>
<iframe src="inner.html"></iframe><object data="model.glb"></object><img src="javascript:no()"><img src="">
<noscript><img src="still.gif"></noscript><script>var s = '<img src="no.png">';</script></body></html>
`

func TestMentions(t *testing.T) {
	formattest.Table(t, Format{}, "x.html", sample,
		"used link href | style%20sheet.css?v=3", "used link href | icon.svg", "dormant link href | night.css", "used script src | app.mjs",
		"used style @import | more.css", "used style url | paper.png", "used body background | wall.gif", "used img src | gull & fog.jpg",
		"used img srcset | small.jpg", "used img srcset | large,one.jpg", "used img srcset | last.jpg", "used img src | Horn.PNG", "used img src | plain.png", "used (inside 14) img src | data:image/gif;base64,",
		"used style url | a b.png", "used style url | c.png", "used video poster | still.jpg", "used video src | film.mp4", "used track src | words.vtt",
		"used source srcset | wide.webp", "used input src | go.png", "used image href | chart.png", "used use xlink:href | parts.svg#arrow", "used iframe src | inner.html", "used object data | model.glb", "dormant img src | still.gif")
}

// TestBase: names are relative to the base, wherever it stands before them.
func TestBase(t *testing.T) {
	formattest.Table(t, Format{}, "x.html", `<html><head><base href="../assets/index.html"><link rel=stylesheet href=a.css></head><body><img src="b/c.png"><img src="/whole.png"></body></html>`,
		"used link href | a.css → ../assets/a.css", "used img src | b/c.png → ../assets/b/c.png", "used img src | /whole.png")
}

func TestBadInput(t *testing.T) {
	formattest.Bad(t, Format{}, "x.html", "<html><img src='a.png'><img src='b.png", "", 1)
}

func FuzzRead(f *testing.F) {
	formattest.Fuzz(f, Format{}, "x.html", []byte(sample), []byte(`<base href=x/><p style=background:url(a.png)><img srcset="a,b 1x">`))
}

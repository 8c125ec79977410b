// Package gltf reads glTF 2.0 (ISO/IEC 12113), as .gltf text and as the JSON
// chunk of a .glb.
//
// Buffers and images name files by uri; what reaches them from a scene is used,
// what only another scene or another material variant reaches is dormant, what
// nothing places is listed.
package gltf

import (
	"bytes"
	"errors"
	"fmt"
	"strings"

	"boundcrate/core/text/format"
	"boundcrate/core/text/format/jsonscan"
	"boundcrate/core/text/mention"
	"boundcrate/core/text/problem"
)

// Format is the reader.
type Format struct{}

// Name is "gltf".
func (Format) Name() string { return "gltf" }

// About tells people of it.
func (Format) About() format.About {
	return format.About{Title: "glTF 2.0 scene", Extensions: []string{"gltf", "glb"}, Knows: "buffers and images, how the scenes reach them, data that stands inside"}
}

// Claims knows a GLB by its magic, a .gltf by its extension and its asset
// member.
func (Format) Claims(name string, head []byte) int {
	ext := format.Ext(name)
	switch {
	case bytes.HasPrefix(head, []byte("glTF")):
		return 100
	case bytes.Contains(head, []byte(`"asset"`)) && bytes.HasPrefix(bytes.TrimLeft(head, "\xEF\xBB\xBF \t\r\n"), []byte("{")):
		for _, k := range []string{`"buffers"`, `"meshes"`, `"scenes"`, `"accessors"`, `"images"`, `"nodes"`} {
			if bytes.Contains(head, []byte(k)) {
				return 80
			}
		}
	}
	if ext == "gltf" || ext == "glb" {
		return 45
	}
	return 0
}

// Read reads buffers and images and how the scenes reach them.
func (Format) Read(t mention.Text, _ format.Include) (*mention.Doc, error) {
	r := &reader{s: jsonscan.New(t.Bytes), t: t, lines: t.Lines(), doc: &mention.Doc{Texts: []mention.Text{t}}, scene: -1}
	err := r.root()
	if err == nil {
		err = r.s.End()
	}
	if err == nil && r.version == "" {
		err = errors.New("it has no asset.version, which glTF requires")
	}
	if strings.HasPrefix(r.version, "1.") {
		// 1.0 keeps its files under other names and would look empty here.
		return nil, fmt.Errorf("it is glTF %s; only version 2 is read", r.version)
	}
	r.spread()
	r.mentions()
	return r.doc, err
}

type reader struct {
	s       *jsonscan.Scanner
	t       mention.Text
	lines   *mention.Lines
	doc     *mention.Doc
	version string
	scene   int

	buffers   []resource
	images    []resource
	views     []view
	accessors []accessor
	textures  [][]int // images
	materials [][]int // textures
	meshes    []mesh
	nodes     []node
	skins     []int   // accessor, -1
	anims     [][]int // accessors
	scenes    [][]int // nodes
	lights    []int   // images that light a scene
	beyond    mesh    // what extensions of the whole lead to
}

type resource struct {
	off  int64
	uri  mention.Span // empty: none
	name string
	mime string
	view int // buffer view, -1
	// at is the bufferView member, its key included; empty where it cannot be told.
	at   mention.Span
	use  mention.Use
	seen bool // anything at all leads to it
}

type view struct {
	buffers   []int
	off, size int64
}

type accessor struct{ views []int }

type mesh struct {
	accessors, views, materials, variants []int
	textures                              []int // by extensions
}

type node struct {
	mesh, skin int
	children   []int
	accessors  []int
	beyond     mesh // by extensions
}

func (r *reader) skip() error {
	_, err := r.s.Skip()
	return err
}

// object reads an object if one stands there and passes over anything else
// with a problem.
func (r *reader) object(what string, each func(key string) error) error {
	if r.s.Peek() != '{' {
		return r.unexpected(what, "an object")
	}
	return r.s.Object(each)
}

func (r *reader) array(what string, each func(i int) error) error {
	if r.s.Peek() != '[' {
		return r.unexpected(what, "a list")
	}
	return r.s.Array(each)
}

func (r *reader) unexpected(what, want string) error {
	if r.s.Peek() == 0 {
		return r.skip() // the end of the text is its own error
	}
	r.doc.Problems = append(r.doc.Problems, problem.Problem{Kind: problem.WrongType, Line: r.lines.At(r.s.Pos()), Args: []string{what, want}})
	return r.skip()
}

// number reads an index; -1 where there is none.
func (r *reader) number(v *int) error {
	f, ok, err := r.s.Number()
	if *v = -1; ok && f >= 0 && f < 1<<31 {
		*v = int(f)
	}
	return err
}

// bytes reads a count of bytes.
func (r *reader) bytes(v *int64) error {
	f, ok, err := r.s.Number()
	if ok && f >= 0 && f < 1<<52 {
		*v = int64(f)
	}
	return err
}

func (r *reader) push(list *[]int) error {
	var v int
	err := r.number(&v)
	if v >= 0 {
		*list = append(*list, v)
	}
	return err
}

func (r *reader) ints(what string, list *[]int) error {
	return r.array(what, func(int) error { return r.push(list) })
}

// values reads the numbers of an object like {"POSITION": 3}.
func (r *reader) values(what string, list *[]int) error {
	return r.object(what, func(string) error { return r.push(list) })
}

func (r *reader) root() error {
	elements := map[string]func() error{
		"bufferViews": r.bufferView, "accessors": r.accessor, "textures": r.texture, "meshes": r.mesh, "nodes": r.node, "skins": r.skin,
		"animations": r.animation, "scenes": r.aScene,
		"buffers": func() error { return r.resource("a buffer", r.s.Pos(), &r.buffers) },
		"images":  func() error { return r.resource("an image", r.s.Pos(), &r.images) },
		"materials": func() error {
			var tex []int
			err := r.material("", &tex)
			r.materials = append(r.materials, tex)
			return err
		},
	}
	return r.s.Object(func(key string) error {
		if one := elements[key]; one != nil {
			return r.array(key, func(int) error { r.s.Peek(); return one() })
		}
		switch key {
		case "asset":
			return r.object(key, func(k string) error {
				if k != "version" || r.s.Peek() != '"' {
					return r.skip()
				}
				span, err := r.s.String()
				if err == nil {
					r.version = r.s.Text(span)
				}
				return err
			})
		case "scene":
			return r.number(&r.scene)
		case "extensions":
			return r.object(key, func(k string) error {
				if k != "EXT_lights_image_based" {
					return r.reach(k, &r.beyond)
				}
				return r.deep(k, "specularImages", &r.lights)
			})
		}
		return r.skip()
	})
}

func (r *reader) bufferView() error {
	var v view
	err := r.object("a buffer view", func(k string) error { return r.view(k, &v) })
	r.views = append(r.views, v)
	return err
}

func (r *reader) accessor() error {
	var a accessor
	err := r.object("an accessor", func(k string) error {
		if k == "sparse" {
			return r.deep(k, "bufferView", &a.views)
		}
		if k == "bufferView" {
			return r.push(&a.views)
		}
		return r.skip()
	})
	r.accessors = append(r.accessors, a)
	return err
}

// texture reads one; extensions name further sources for the same texture.
func (r *reader) texture() error {
	var sources []int
	err := r.deep("a texture", "source", &sources)
	r.textures = append(r.textures, sources)
	return err
}

func (r *reader) skin() error {
	a := -1
	err := r.object("a skin", func(k string) error {
		if k == "inverseBindMatrices" {
			return r.number(&a)
		}
		return r.skip()
	})
	r.skins = append(r.skins, a)
	return err
}

func (r *reader) animation() error {
	var list []int
	err := r.object("an animation", func(k string) error {
		if k != "samplers" {
			return r.skip()
		}
		return r.array(k, func(int) error {
			return r.object("a sampler", func(k string) error {
				if k == "input" || k == "output" {
					return r.push(&list)
				}
				return r.skip()
			})
		})
	})
	r.anims = append(r.anims, list)
	return err
}

func (r *reader) aScene() error {
	var nodes []int
	err := r.object("a scene", func(k string) error {
		if k == "nodes" {
			return r.ints(k, &nodes)
		}
		return r.skip()
	})
	r.scenes = append(r.scenes, nodes)
	return err
}

func (r *reader) resource(what string, off int64, list *[]resource) error {
	res := resource{off: off, view: -1}
	err := r.object(what, func(k string) error {
		switch k {
		case "uri":
			if r.s.Peek() != '"' {
				return r.unexpected("the uri of "+what, "text")
			}
			span, err := r.s.String()
			if err == nil {
				res.uri, res.off = span, span.Off
			}
			return err
		case "name":
			if r.s.Peek() != '"' {
				return r.skip()
			}
			span, err := r.s.String()
			if err == nil {
				res.name = r.s.Text(span)
			}
			return err
		case "mimeType": // required of an image in a buffer view (§5.19)
			if r.s.Peek() != '"' {
				return r.unexpected("the mimeType of "+what, "text")
			}
			span, err := r.s.String()
			if err == nil {
				res.mime = r.s.Text(span)
			}
			return err
		case "bufferView":
			r.s.Peek()
			from := r.s.Pos()
			err := r.number(&res.view)
			const key = `"bufferView"`
			if k := bytes.LastIndex(r.t.Bytes[:from], []byte(key)); k >= 0 && err == nil {
				if between := bytes.TrimSpace(r.t.Bytes[k+len(key) : from]); len(between) == 1 && between[0] == ':' {
					res.at = mention.Span{Off: int64(k), End: r.s.Pos()}
				}
			}
			return err
		}
		return r.skip()
	})
	*list = append(*list, res)
	return err
}

// kindOf is what a media type says of data that has no name.
func kindOf(mime string) string {
	if strings.HasPrefix(mime, "image/") {
		return "image"
	}
	return ""
}

func (r *reader) view(key string, v *view) error {
	switch key {
	case "buffer":
		return r.push(&v.buffers)
	case "byteLength":
		return r.bytes(&v.size)
	case "byteOffset":
		return r.bytes(&v.off)
	case "extensions": // a compressed form may stand in another buffer
		return r.deep(key, "buffer", &v.buffers)
	}
	return r.skip()
}

// material collects texture numbers: every texture info is an object under a
// key that ends in "Texture", in the core and in all extensions alike.
func (r *reader) material(key string, tex *[]int) error {
	switch r.s.Peek() {
	case '{':
		return r.s.Object(func(k string) error {
			if k == "index" && texture(key) {
				return r.push(tex)
			}
			return r.material(k, tex)
		})
	case '[':
		return r.s.Array(func(int) error { return r.material("", tex) })
	}
	return r.skip()
}

func (r *reader) mesh() error {
	var m mesh
	err := r.object("a mesh", func(k string) error {
		if k == "extensions" {
			return r.reach(k, &m)
		}
		if k != "primitives" {
			return r.skip()
		}
		return r.array(k, func(int) error {
			return r.object("a primitive", func(k string) error {
				switch k {
				case "attributes":
					return r.values(k, &m.accessors)
				case "indices":
					return r.push(&m.accessors)
				case "material":
					return r.push(&m.materials)
				case "targets":
					return r.array(k, func(int) error { return r.values("a morph target", &m.accessors) })
				case "extensions":
					return r.object(k, func(k string) error {
						if k == "KHR_materials_variants" {
							return r.deep(k, "material", &m.variants)
						}
						return r.reach(k, &m)
					})
				}
				return r.skip()
			})
		})
	})
	r.meshes = append(r.meshes, m)
	return err
}

func (r *reader) node() error {
	n := node{mesh: -1, skin: -1}
	err := r.object("a node", func(k string) error {
		switch k {
		case "mesh":
			return r.number(&n.mesh)
		case "skin":
			return r.number(&n.skin)
		case "children":
			return r.ints(k, &n.children)
		case "extensions":
			return r.object(k, func(k string) error {
				if k != "EXT_mesh_gpu_instancing" {
					return r.reach(k, &n.beyond)
				}
				return r.object(k, func(k string) error {
					if k == "attributes" {
						return r.values(k, &n.accessors)
					}
					return r.skip()
				})
			})
		}
		return r.skip()
	})
	r.nodes = append(r.nodes, n)
	return err
}

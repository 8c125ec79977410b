package stow

import (
	"cmp"
	"path/filepath"
	"slices"
	"strconv"
	"strings"

	"boundcrate/core/disk/drive"
	"boundcrate/core/media/facts"
	"boundcrate/core/media/pcm"
	"boundcrate/core/pack/content"
	"boundcrate/core/pack/export"
	"boundcrate/core/pack/sift"
	"boundcrate/core/road/graph"
	"boundcrate/core/text/names"
	"boundcrate/core/text/problem"
)

// apart puts beside sounds the files in which their channels lie as the recipe wants. What
// documents name goes on travelling: none of them could name several files in place of
// one, or one channel of a file, so that the sound they name stays the sound they
// name. What nothing names travels only as it is wanted.
func (p *planner) apart(t taken) {
	switch p.o.Sound.Channels {
	case pcm.Split:
		for i := range len(p.Berths) {
			if b := &p.Berths[i]; !b.Absent && b.channels > 1 {
				p.split(i, t)
			}
		}
	case pcm.Interleaved:
		for _, group := range p.ofOneSound() {
			p.join(group, t)
		}
	}
}

// beside is a berth for what is made of the sound of another one.
func (p *planner) beside(i int, end, name string, with []string, s SoundPlan, cut pcm.Cut, t taken, heard *content.Listened) {
	b := p.Berths[i]
	_, ext := names.Split(b.Name)
	if s.To.Type != s.Type {
		ext = s.To.Type.Ext()
	}
	a := asIs(Berth{
		File: graph.None, Key: b.Key + "\x00" + end, Source: b.Source, From: b.From, Was: b.Was, Folder: b.Folder, Name: name + ext, Kind: facts.Audio, Use: b.Use,
		Doc: graph.None, Size: s.Bytes, Renamed: Apart,
	})
	a.Heard, a.Beside = &Heard{Sound: s.To, Raw: s.Bytes, With: with, About: s.About, Known: heard}, &Beside{Along: sift.Channels}
	if heard != nil {
		a.Size, a.Heard.About = heard.Result.Bytes, false
	}
	if cut != (pcm.Cut{}) {
		a.Heard.Cut, a.Heard.Long = &cut, s.Long
	}
	if !p.settle(&a, t) {
		p.Problems = append(p.Problems, problem.Problem{Kind: problem.NoName, Path: b.Source})
		return
	}
	if a.Clashed {
		p.Clashes++
	}
	p.Berths = append(p.Berths, a)
}

func (p *planner) split(i int, t taken) {
	b := p.Berths[i]
	stem, _ := names.Split(b.Name)
	for k, end := range pcm.ChannelEnds(b.channels) {
		cut := pcm.Cut{Channel: k + 1}
		if b.Cut != nil {
			cut.First, cut.Frames = b.Cut.First, b.Cut.Frames
		}
		s, err := p.o.Sounds([]string{b.Source}, p.o.Sound, cut)
		if err != nil || s.To == nil {
			p.Problems = append(p.Problems, problem.Problem{Kind: problem.CannotBear, Path: b.Source, Args: []string{string(p.o.Sound.Type)}})
			return
		}
		heard, whole := p.listen(s, cut, b.Source)
		if !whole {
			return
		}
		p.beside(i, end, stem+end, nil, s, cut, t, heard)
	}
	if b.File == graph.None {
		p.Berths[i].Absent, p.Berths[i].Why = true, AsChannels
	}
}

func (p *planner) join(group []int, t taken) {
	paths := make([]string, len(group))
	unnamed := true
	for k, i := range group {
		paths[k] = p.Berths[i].Source
		unnamed = unnamed && p.Berths[i].File == graph.None
	}
	first := p.Berths[group[0]]
	cut := pcm.Cut{}
	if first.Cut != nil && !slices.ContainsFunc(group, func(i int) bool { c := p.Berths[i].Cut; return c == nil || *c != *first.Cut }) {
		cut = *first.Cut // all channels are used alike
	}
	s, err := p.o.Sounds(paths, p.o.Sound, cut)
	if err != nil || s.To == nil {
		p.Problems = append(p.Problems, problem.Problem{Kind: problem.UnevenChannels, Path: first.Source})
		return
	}
	name, _, _ := channelOf(first.Name)
	if name == "" { // it has another name in the crate
		name, _ = names.Split(first.Name)
	}
	heard, whole := p.listen(s, cut, paths...)
	if !whole {
		return
	}
	p.beside(group[0], "joined", name, paths[1:], s, cut, t, heard)
	for _, i := range group {
		if unnamed {
			p.Berths[i].Absent, p.Berths[i].Why = true, AsChannels
		}
	}
}

// channelOf is which channel of a sound a file's name says that it holds, from 1, and
// the name of the sound; 0: none.
func channelOf(name string) (sound string, channel, of int) {
	stem, _ := names.Split(name)
	i := strings.LastIndexByte(stem, '.')
	if i < 1 {
		return "", 0, 0
	}
	switch end := stem[i+1:]; end {
	case "L", "l":
		return stem[:i], 1, 2
	case "R", "r":
		return stem[:i], 2, 2
	default:
		n, err := strconv.Atoi(end)
		if err != nil || n < 1 || strconv.Itoa(n) != end {
			return "", 0, 0
		}
		return stem[:i], n, 0
	}
}

// ofOneSound are the files that hold the channels of one sound, by their names, in the order of
// the channels.
func (p *planner) ofOneSound() [][]int {
	type key struct {
		dir, sound, ext string
		of              int
	}
	type member struct{ channel, berth int }
	groups := map[key][]member{}
	for i := range p.Berths {
		b := &p.Berths[i]
		if b.Absent || b.channels != 1 {
			continue
		}
		if sound, n, of := channelOf(b.Was); n > 0 {
			k := key{b.From, sound, strings.ToLower(filepath.Ext(b.Was)), of}
			groups[k] = append(groups[k], member{n, i})
		}
	}
	var list [][]int
	for k, members := range groups {
		slices.SortFunc(members, func(a, b member) int { return cmp.Compare(a.channel, b.channel) })
		if len(members) < 2 || k.of > 0 && len(members) != k.of {
			continue
		}
		group := make([]int, len(members))
		for i, m := range members {
			if m.channel != i+1 {
				group = nil // one lacks, or is there twice
				break
			}
			group[i] = m.berth
		}
		if group != nil && p.together(group, k.of > 0) {
			list = append(list, group)
		}
	}
	slices.SortFunc(list, func(a, b []int) int { return cmp.Compare(a[0], b[0]) })
	return list
}

// together tells that files were recorded, or are used, as one: by the set of files that they
// say they are of, by the time at which they begin, or because one document names them all.
// Where any of these says otherwise they are not. Numbers at the ends of names are those of
// takes, too, which one document may well name: of them the recording itself must tell.
func (p *planner) together(group []int, sides bool) bool {
	first := &p.Berths[group[0]].tells
	for _, i := range group {
		f := &p.Berths[i].tells
		if f.Family != first.Family || f.FamilyOf > 0 && f.FamilyOf != len(group) || f.Clock != first.Clock {
			return false
		}
	}
	return first.Family != "" || first.Clock > 0 || sides && p.byOne(group)
}

// byOne tells files that one document names, all of them.
func (p *planner) byOne(group []int) bool {
	named := map[graph.DocID]int{}
	for _, i := range group {
		if p.Berths[i].File == graph.None {
			return false
		}
		docs := map[graph.DocID]bool{}
		for _, r := range p.Graph.Files[p.Berths[i].File].Refs {
			docs[p.Graph.References[r].Doc] = true
		}
		for d := range docs {
			named[d]++
		}
	}
	for _, n := range named {
		if n == len(group) {
			return true
		}
	}
	return false
}

// channelsOf tells how many channels a sound has, and the files that hold one each, from
// a folder of the crate.
func (p *Plan) channelsOf(reach drive.Reach, id graph.FileID, dir string) (n int, apart []string) {
	if p.of[id] < 0 {
		return 0, nil
	}
	b := &p.Berths[p.of[id]]
	for i := range p.Berths {
		if a := &p.Berths[i]; a.Apart() && a.Source == b.Source && a.Cut != nil && a.Cut.Channel > 0 {
			if rel, err := filepath.Rel(dir, "/"+a.To()); err == nil {
				apart = append(apart, filepath.ToSlash(rel))
			}
		}
	}
	if n = b.channels; n == 0 {
		n = export.ChannelsAt(reach, p.Graph.Files[id].Path)
	}
	return n, apart
}

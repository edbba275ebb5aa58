package scene

import (
	"fmt"
	"hash/fnv"
	"math/rand/v2"
	"os"
	"testing"
	"time"

	"plaintracer/core/diagram"
	"plaintracer/core/geometry"
)

func burden(name string) *diagram.Map {
	m := diagram.New(name, diagram.Rightwards, "A4", true)
	s := m.Sheets[0]
	add := func(n, x, y int) {
		s.Symbols = append(s.Symbols, &diagram.Symbol{ID: fmt.Sprint("s", n), Kind: diagram.Process, Text: fmt.Sprint("Step ", n), Box: geometry.Box{X: x, Y: y, W: 12000, H: 8000}})
	}
	join := func(a, b int) {
		s.Connectors = append(s.Connectors, &diagram.Connector{ID: fmt.Sprint("c", len(s.Connectors)), From: diagram.End{Symbol: fmt.Sprint("s", a)}, To: diagram.End{Symbol: fmt.Sprint("s", b)}})
	}
	r := rand.New(rand.NewPCG(1, 2))
	switch name {
	case "far":
		add(0, -9900000, 0)
		add(1, 9900000, 0)
		for range 1000 {
			join(0, 1)
		}
	case "far2", "far3", "far4":
		y := map[string]int{"far2": 9900000, "far3": 777, "far4": 9000}[name]
		add(0, -9900000, 0)
		add(1, 9900000, y)
		for k := range 1000 {
			join(k%2, 1-k%2)
		}
	case "close":
		add(0, 0, 0)
		add(1, 20000, 0)
		for range 2000 {
			join(0, 1)
		}
	case "random3000", "random1500", "random1500off", "random10000":
		n, k := 1000, 3000
		if name == "random1500" || name == "random1500off" {
			k = 1500
		}
		if name == "random10000" {
			n, k = 5000, 10000
		}
		for i := range n {
			x, y := i%40*20000, i/40*16000
			if name != "random1500" {
				x, y = x+r.IntN(5000), y+r.IntN(5000)
			}
			add(i, x, y)
		}
		for range k {
			a, b := r.IntN(n), r.IntN(n)
			if a != b {
				join(a, b)
			}
		}
	case "chain1500":
		for i := range 1000 {
			add(i, i%40*20000+r.IntN(5000), i/40*16000+r.IntN(5000))
		}
		for i := range 999 {
			join(i, i+1)
		}
		for range 500 {
			a := r.IntN(900)
			join(a, a+1+r.IntN(90))
		}
	}
	return m
}

func TestBurden(t *testing.T) {
	name := os.Getenv("BURDEN")
	m := burden(name)
	begun := time.Now()
	d := Draw(m, m.Sheets[0])
	t.Log(name, time.Since(begun), len(d.Courses))
}

func TestBurdenHash(t *testing.T) {
	name := os.Getenv("BURDEN")
	m := burden(name)
	d := Draw(m, m.Sheets[0])
	h := fnv.New64a()
	for _, c := range d.Courses {
		fmt.Fprint(h, c.Points, c.Labels, c.Hops)
	}
	t.Logf("%s %x", name, h.Sum64())
}

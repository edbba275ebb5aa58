package exchange_test

import (
	"context"
	"fmt"
	"runtime"
	"testing"

	"plaintracer/bench/processes"
	"plaintracer/core/geometry"
	"plaintracer/core/model"
	"plaintracer/exchange"
)

// book is a map of so many sheets of so many steps each, on A3.
func book(b *testing.B, sheets, steps int) *model.Map {
	b.Helper()
	m := model.New("Book", model.Rightwards, "A3", true)
	m.Sheets = nil
	for i := range sheets {
		one := processes.Make(uint64(i), processes.Shape{Steps: steps, Lanes: 4}).Map()
		s := one.Sheets[0]
		s.ID, s.Name, s.Paper, s.Across = fmt.Sprint("sheet", i), fmt.Sprint("Sheet ", i+1), "A3", true
		s.Pools = nil
		for k, sym := range s.Symbols { // set out in rows
			sym.ID = fmt.Sprint(i, "-", sym.ID)
			sym.Box = sym.At(geometry.Point{X: (40 + k%10*150) * px, Y: (40 + k/10*150) * px})
		}
		for _, c := range s.Connectors {
			c.ID, c.From.Symbol, c.To.Symbol = fmt.Sprint(i, "-", c.ID), fmt.Sprint(i, "-", c.From.Symbol),
				fmt.Sprint(i, "-", c.To.Symbol)
		}
		m.Sheets = append(m.Sheets, s)
	}
	if err := m.Validate(); err != nil {
		b.Fatal(err)
	}
	return m
}

func benchmark(b *testing.B, m *model.Map, format string, pairs ...string) {
	b.Helper()
	size, peak := 0, uint64(0)
	for b.Loop() {
		size = len(made(b, m, format, pairs...).Data)
		var now runtime.MemStats
		runtime.ReadMemStats(&now)
		peak = max(peak, now.HeapAlloc)
	}
	b.ReportMetric(float64(size)/1000, "KB")
	b.ReportMetric(float64(peak)/1e6, "MB-heap")
}

// Targets: PDF of ten sheets of 60 symbols 1 s and 60 MB; PNG of a sheet at 300 dots per inch of A3 1.5 s; SVG 50 ms;
// the DOCX of a procedure of 40 steps 300 ms.
func BenchmarkExport(b *testing.B) {
	ten, one := book(b, 10, 60), book(b, 1, 60)
	b.Run("PDF/10 sheets of 60", func(b *testing.B) { benchmark(b, ten, "pdf") })
	b.Run("PNG/A3 at 300 dpi",
		func(b *testing.B) { benchmark(b, one, "png", "size", "print", "width", "420", "dots", "300") })
	b.Run("SVG/60", func(b *testing.B) { benchmark(b, one, "svg") })
	b.Run("HTML/10 sheets of 60", func(b *testing.B) { benchmark(b, ten, "html") })
	b.Run("procedure/10 sheets of 60", func(b *testing.B) { benchmark(b, ten, "procedure-pdf") })
	forty := book(b, 1, 40)
	b.Run("DOCX/40 steps", func(b *testing.B) { benchmark(b, forty, "procedure-docx") })
}

// The preview of a sheet of 200 symbols. Target: 400 ms.
func BenchmarkPreview(b *testing.B) {
	m := book(b, 1, 200)
	m.Sheets[0].Paper = "A2"
	for _, format := range []string{"pdf", "png", "svg"} {
		f := exchange.Named(format)
		s, err := exchange.Read(f, func(string) (string, bool) { return "", false })
		if err != nil {
			b.Fatal(err)
		}
		b.Run(format, func(b *testing.B) {
			for b.Loop() {
				if _, err := exchange.Show(context.Background(), m, f, s, 0); err != nil {
					b.Fatal(err)
				}
			}
		})
	}
}

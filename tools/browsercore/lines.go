package main

import (
	"encoding/binary"
	"errors"
)

// A Go program carries tables that lead from every place in its code to a file, a line and what was written out in
// place there. Only the texts of panics are made from them, and they are a tenth of what a browser loads. withoutLines
// empties them: a panic in the browser still names the functions. The tables' form is that of package runtime of the Go
// that builds (runtime/symtab.go: pcHeader, and runtime/runtime2.go: _func), where an offset of 0 says that there is no
// table.

var errForm = errors.New("the tables of the program have another form than expected")

// The places in the head of the tables, and in what is said of one function.
const (
	// abi.Go120PCLnTabMagic, instructions of one byte, pointers of eight
	magic        = "\xf1\xff\xff\xff\x00\x00\x01\x08"
	atCount      = 8
	atTables     = 56 // where the tables begin, as an offset from the head
	atFuncs      = 64
	headSize     = 72
	funcTables   = 16 // pcsp, pcfile, pcln, and the number of further tables
	funcSize     = 44
	inlinedIndex = 2 // abi.PCDATA_InlTreeIndex
)

// withoutLines returns the program with the tables of files and lines emptied.
func withoutLines(wasm []byte) ([]byte, error) {
	m, err := memoryOf(append([]byte(nil), wasm...))
	if err != nil {
		return nil, err
	}
	head := m.find(magic)
	if head < 0 {
		return nil, errForm
	}
	count, tables, funcs := int(m.u64(head+atCount)), head+int(m.u64(head+atTables)), head+int(m.u64(head+atFuncs))
	if count < 1 || tables < head+headSize || funcs <= tables || funcs+8*count > len(m.bytes) {
		return nil, errForm
	}
	kept := make([]bool, funcs-tables)
	keep := func(offset uint32) bool {
		for q, n := int(offset), 0; ; n++ { // pairs of differences, of which the first ends the table with 0
			for part := range 2 {
				from := q
				for {
					if q >= len(kept) {
						return false
					}
					kept[q] = true
					if q++; m.bytes[tables+q-1] < 0x80 {
						break
					}
				}
				if part == 0 && n > 0 && q == from+1 && m.bytes[tables+from] == 0 {
					return true
				}
			}
		}
	}
	for k := range count {
		at := funcs + int(m.u32(funcs+8*k+4))
		if at+funcSize > len(m.bytes) {
			return nil, errForm
		}
		further := int(m.u32(at + funcTables + 12))
		if further > 16 || at+funcSize+4*further > len(m.bytes) {
			return nil, errForm
		}
		m.clear(at+funcTables+4, 8)
		if further > inlinedIndex {
			m.clear(at+funcSize+4*inlinedIndex, 4)
		}
		places := []int{at + funcTables}
		for i := range further {
			places = append(places, at+funcSize+4*i)
		}
		for _, p := range places {
			if offset := m.u32(p); offset != 0 && !keep(offset) {
				return nil, errForm
			}
		}
	}
	for i := range kept {
		if !kept[i] && i > 0 {
			m.clear(tables+i, 1)
		}
	}
	return m.wasm, nil
}

// memory is what a program has in its memory when it starts, and where in its file that stands.
type memory struct {
	wasm  []byte
	bytes []byte
	place []int32 // of each byte in the file; 0 for a zero that stands nowhere
}

// memoryOf reads the data section of a program (WebAssembly Core Specification, 5.5.14).
func memoryOf(wasm []byte) (*memory, error) {
	r := reader{wasm, 8}
	for r.at < len(wasm) {
		id := wasm[r.at]
		r.at++
		size := int(r.number())
		if id != 11 {
			r.at += size
			continue
		}
		m := &memory{wasm: wasm}
		for range r.number() {
			if r.number() != 0 || r.byte() != 0x41 {
				return nil, errForm
			}
			to := int(r.signed())
			if r.byte() != 0x0b {
				return nil, errForm
			}
			n := int(r.number())
			if to < 0 || to > 1<<28 || n > len(wasm)-r.at {
				return nil, errForm
			}
			for len(m.bytes) < to+n {
				m.bytes, m.place = append(m.bytes, 0), append(m.place, 0)
			}
			for i := range n {
				m.bytes[to+i], m.place[to+i] = wasm[r.at+i], int32(r.at+i)
			}
			r.at += n
		}
		return m, nil
	}
	return nil, errForm
}

func (m *memory) u32(at int) uint32 { return binary.LittleEndian.Uint32(m.bytes[at:]) }
func (m *memory) u64(at int) uint64 { return binary.LittleEndian.Uint64(m.bytes[at:]) }

// find returns the first place of a text; -1 for none.
func (m *memory) find(text string) int {
	for i := 0; i+max(len(text), headSize) <= len(m.bytes); i++ {
		if string(m.bytes[i:i+len(text)]) == text {
			return i
		}
	}
	return -1
}

// clear makes n bytes zero, in the file too.
func (m *memory) clear(at, n int) {
	for i := at; i < at+n; i++ {
		m.bytes[i] = 0
		if p := m.place[i]; p > 0 {
			m.wasm[p] = 0
		}
	}
}

// reader reads numbers in the form of LEB128.
type reader struct {
	from []byte
	at   int
}

func (r *reader) byte() byte {
	if r.at >= len(r.from) {
		return 0xff
	}
	r.at++
	return r.from[r.at-1]
}

func (r *reader) number() (n uint64) {
	for shift := uint(0); shift < 64; shift += 7 {
		b := r.byte()
		n |= uint64(b&0x7f) << shift
		if b < 0x80 {
			break
		}
	}
	return n
}

func (r *reader) signed() (n int64) {
	for shift := uint(0); shift < 64; {
		b := r.byte()
		n |= int64(b&0x7f) << shift
		shift += 7
		if b < 0x80 {
			if b&0x40 != 0 {
				n |= -1 << shift
			}
			break
		}
	}
	return n
}

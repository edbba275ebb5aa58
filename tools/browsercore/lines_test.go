package main

import (
	"bytes"
	"encoding/binary"
	"testing"
)

// program makes a program whose memory holds the tables of one function, with a byte before and after them. The tables
// begin with an unused byte: at 1 that of the stack, at 5 that of the files, at 8 that of the lines, at 11 one of the
// function's own, at 14 what is written out in place.
func program() (wasm []byte, tables int) {
	list := []byte{0, 2, 4, 0, 0, 6, 4, 0, 8, 4, 0, 10, 4, 0, 12, 4, 0}
	list[4] = 99 // stands between two tables and belongs to none
	head := make([]byte, headSize)
	copy(head, magic)
	for at, value := range map[int]int{atCount: 1, atTables: headSize, atFuncs: headSize + len(list)} {
		binary.LittleEndian.PutUint64(head[at:], uint64(value))
	}
	f := make([]byte, 16+funcSize+12)
	binary.LittleEndian.PutUint32(f[4:], 16)
	for i, value := range []uint32{1, 5, 8, 3} {
		binary.LittleEndian.PutUint32(f[16+funcTables+4*i:], value)
	}
	for i, value := range []uint32{0, 11, 14} {
		binary.LittleEndian.PutUint32(f[16+funcSize+4*i:], value)
	}
	data := bytes.Join([][]byte{{7}, head, list, f, {8}}, nil)
	// to 4096
	segment := bytes.Join([][]byte{{0, 0x41, 0x80, 0x20, 0x0b}, binary.AppendUvarint(nil, uint64(len(data))), data},
		nil)
	section := append([]byte{1}, segment...)
	wasm = bytes.Join([][]byte{[]byte("\x00asm\x01\x00\x00\x00"), {1, 1, 0}, {11},
		binary.AppendUvarint(nil, uint64(len(section))), section}, nil)
	return wasm, len(wasm) - 1 - len(f) - len(list)
}

// Files, lines and what was written out in place are emptied; all that a program needs to run stays.
func TestLinesAreTakenOut(t *testing.T) {
	wasm, tables := program()
	before := bytes.Clone(wasm)
	less, err := withoutLines(wasm)
	if err != nil {
		t.Fatal(err)
	}
	if !bytes.Equal(wasm, before) {
		t.Error("the program that was given is changed itself")
	}
	want := bytes.Clone(before)
	list := want[tables:]
	for _, i := range []int{4, 5, 6, 7, 8, 9, 10, 14, 15, 16} {
		list[i] = 0
	}
	f := list[17+16:]
	for _, at := range []int{funcTables + 4, funcTables + 8, funcSize + 8} {
		binary.LittleEndian.PutUint32(f[at:], 0)
	}
	if !bytes.Equal(less, want) {
		t.Errorf("it is\n%x, not\n%x", less, want)
	}
}

// What has another form is left alone.
func TestOtherProgramsAreLeftAlone(t *testing.T) {
	wasm, tables := program()
	for name, change := range map[string]func(b []byte) []byte{
		"another version": func(b []byte) []byte { b[bytes.Index(b, []byte(magic))] ^= 2; return b },
		"no data":         func(b []byte) []byte { return b[:11] },
		"a table without end": func(b []byte) []byte {
			b[tables+3] = 1
			copy(b[tables+4:],
				bytes.Repeat([]byte{0x81}, 13))
			return b
		},
		"a function elsewhere":  func(b []byte) []byte { b[tables+17+7] = 0x10; return b },
		"a segment of no place": func(b []byte) []byte { b[bytes.Index(b, []byte{0, 0x41})+1] = 0x42; return b },
	} {
		if _, err := withoutLines(change(bytes.Clone(wasm))); err == nil {
			t.Errorf("%s: it is taken", name)
		}
	}
}

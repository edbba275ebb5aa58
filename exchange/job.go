package exchange

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"io"
	"strconv"
	"strings"
	"unicode/utf8"

	"plaintracer/core/handover"
	"plaintracer/core/model"
	"plaintracer/core/scene"
	"plaintracer/exchange/archive"
	"plaintracer/exchange/bundle"
	"plaintracer/exchange/typeface"
)

// Job is a file that is being made.
type Job struct {
	Format   *Format
	Settings Settings
	// Whole is the map, Inside the part of it that goes out, Shown that part as it is shown.
	Whole, Inside, Shown *model.Map
	// Files opens what is kept with the map.
	Files    Files
	drawings []*scene.Drawing
	// said are words of the writer for the person who asked.
	said []string
	// still says that the file is looked at, where no script may run.
	still bool
}

// Files opens the content of a file kept with the map that goes out, by its id. The error is bundle.ErrMissing where
// it is not kept, as where no Files are given.
type Files func(id string) (io.Reader, error)

func (f Files) open(id string) (io.Reader, error) {
	if f == nil {
		return nil, bundle.ErrMissing
	}
	return f(id)
}

// mostInside is how much the files that go into a document take together, in bytes. It is put together in memory.
const mostInside = 64 << 20

// kept is a file that goes into a document.
type kept struct {
	model.File
	data []byte
}

// attached returns the files that go into a document, none where they are not wanted there.
func (j *Job) attached() (list []kept, err error) {
	if !j.Format.Heeds("files") || !j.Settings.Yes("files") {
		return nil, nil
	}
	size := 0
	for _, f := range j.Inside.Attached() {
		if size += f.Size; size > mostInside {
			return nil, &ChoiceError{fmt.Sprintf(
				"The files of the map take more than the %d MB that go into a document. Save the map with its files.",
				mostInside>>20)}
		}
		r, err := j.Files.open(f.ID)
		if errors.Is(err, bundle.ErrMissing) {
			j.said = append(j.said, fmt.Sprintf("%s is not inside: it is not kept with this map.", f.Name))
			continue
		}
		if err != nil {
			return nil, err
		}
		data, err := io.ReadAll(r)
		if err != nil {
			return nil, err
		}
		list = append(list, kept{f, data})
	}
	return list, nil
}

// Result is a file that was made.
type Result struct {
	// Name is that of the file, with its ending.
	Name, MediaType string
	Data            []byte
	// Pour writes the file where it is too large to be held; Data is empty then.
	Pour func(w io.Writer) error
	// Words are for the person who asked: what did not come out as it might be expected.
	Words []string
}

// Whole returns the file, which is put together in memory.
func (r *Result) Whole() ([]byte, error) {
	if r.Pour == nil {
		return r.Data, nil
	}
	var out bytes.Buffer
	err := r.Pour(&out)
	return out.Bytes(), err
}

// Preview is one page of a preview.
type Preview struct {
	MediaType string
	Data      []byte
	// Pages is how many there are.
	Pages int
	Words []string
}

// New begins a job. Its error is a *Wrong where the settings do not fit the map.
func New(m *model.Map, f *Format, s Settings) (*Job, error) {
	j := &Job{Format: f, Settings: s, Whole: m}
	var scope handover.Scope
	if s["what"] == "sheet" || s["what"] == "selection" {
		sheet := m.Sheet(s["sheet"])
		if n, err := strconv.Atoi(s["sheet"]); err == nil && sheet == nil && n >= 1 && n <= len(m.Sheets) {
			sheet = m.Sheets[n-1]
		}
		if sheet == nil {
			return nil, &ChoiceError{fmt.Sprintf("There is no sheet %q; the map has %d.", s["sheet"], len(m.Sheets))}
		}
		scope.Sheet = sheet.ID
	}
	if s["what"] == "selection" {
		if scope.IDs = strings.FieldsFunc(s["ids"], func(r rune) bool { return r == ',' }); len(scope.IDs) == 0 {
			return nil, &ChoiceError{"Nothing is selected."}
		}
	}
	var err error
	if j.Inside, err = handover.Part(m, scope); err != nil {
		return nil, &ChoiceError{err.Error()}
	}
	j.Shown = handover.Dressed(j.Inside, handover.Dress{WithoutNumbers: !s.Yes("numbers"),
		WithoutHeading: !s.Yes("heading"),
		WithoutLegend:  !s.Yes("legend"), WithoutNotes: !s.Yes("notes"), Look: s["look"]})
	if text := s[Standing]; text != "" {
		j.Shown.Title += " (" + text + ")"
		for _, sheet := range j.Shown.Sheets { // the heading says it on the paper, where there is room for it
			sheet.Headed = sheet.Headed || sheet.Extent().Bottom() <= sheet.HeadingBox().Y
		}
	}
	return j, nil
}

// Standing is the setting that says what whoever reads the file has to know of the map: that it was withdrawn, or
// replaced. It is no choice of who asks, and no part of a map that goes out with the file. So are Review, which says
// where the review of the map stands, Owner, who owns the process, and Changed, what changed since the version that was
// agreed last: its first line names that version, and each further one is a change. Author is the name of whoever made
// the file, who counts as its author where the heading names none.
const (
	Standing = "standing"
	Review   = "review"
	Owner    = "owner"
	Changed  = "changed"
	Author   = "author"
)

// author is who the file says has written it.
func (j *Job) author() string {
	if name := j.Whole.Heading.Author; name != "" {
		return name
	}
	return j.Settings[Author]
}

// Drawings are the sheets as they are shown. It ends early, with the error of the context, when that has ended.
func (j *Job) Drawings(ctx context.Context) ([]*scene.Drawing, error) {
	if j.drawings == nil {
		list, err := handover.Drawings(ctx, j.Whole, j.Shown)
		if err != nil {
			return nil, err
		}
		j.drawings = list
	}
	return j.drawings, nil
}

// name is that of the file, without its ending.
func (j *Job) name() string {
	name := strings.Join(strings.Fields(j.Whole.Title), " ")
	if len(j.Whole.Sheets) > 1 && len(j.Shown.Sheets) == 1 {
		name += " - " + j.Shown.Sheets[0].Name
	}
	return FileName(name)
}

// FileName makes a name that every file system takes of any text: without the characters some of them refuse, neither
// empty nor only dots, no longer than 120 bytes, and none that Windows keeps for devices.
func FileName(text string) string {
	name := strings.Map(func(r rune) rune {
		if strings.ContainsRune(`/\:*?"<>|`, r) || r < ' ' || r == 0x7F || r == '\u202e' || r == '\u202d' {
			return '-'
		}
		return r
	}, text)
	for len(name) > 120 {
		_, n := utf8.DecodeLastRuneInString(name)
		name = name[:len(name)-n]
	}
	name = strings.Trim(strings.ToValidUTF8(name, ""), " .")
	stem, _, _ := strings.Cut(strings.ToUpper(name), ".")
	switch {
	case name == "":
		return "map"
	case stem == "CON" || stem == "PRN" || stem == "AUX" || stem == "NUL" ||
		len(stem) == 4 && (stem[:3] == "COM" || stem[:3] == "LPT") && stem[3] >= '0' && stem[3] <= '9':
		return "map " + name
	}
	return name
}

// Make makes the file. Wishes that cannot be met are *Wrong. It ends early, with the error of the context, when that
// has ended.
func Make(ctx context.Context, m *model.Map, f *Format, s Settings, files Files) (*Result, error) {
	j, err := New(m, f, s)
	if err != nil {
		return nil, err
	}
	j.Files = files
	out := &Result{Name: j.name() + f.Ending, MediaType: f.MediaType}
	if f.pour != nil {
		out.Pour = func(w io.Writer) error { return f.pour(j, w) }
	} else if f.Single && len(j.Shown.Sheets) > 1 {
		if out.Data, err = j.pack(ctx); err != nil {
			return nil, err
		}
		out.Name, out.MediaType = j.name()+".zip", "application/zip"
	} else if out.Data, err = f.write(ctx, j); err != nil {
		return nil, err
	} else if f.Name == "procedure-markdown" && s.Yes("pictures") {
		out.Name, out.MediaType = j.name()+".zip", "application/zip"
	}
	words, err := j.words(ctx)
	out.Words = append(j.said, words...)
	return out, err
}

// pack writes every sheet of a map by itself into one archive.
func (j *Job) pack(ctx context.Context) ([]byte, error) {
	var list []File
	for i, sheet := range j.Shown.Sheets {
		one, err := New(j.Whole, j.Format, with(j.Settings, "what", "sheet", "sheet", sheet.ID))
		if err != nil {
			return nil, err
		}
		data, err := j.Format.write(ctx, one)
		if err != nil {
			return nil, err
		}
		list = append(list, File{fmt.Sprintf("%02d %s%s", i+1, FileName(sheet.Name), j.Format.Ending), data})
	}
	return Pack(list)
}

// File is a file in an archive.
type File struct {
	Name string
	Data []byte
}

// Pack puts files into a ZIP archive, in their order and without dates, so that the same files give the same bytes.
func Pack(list []File) ([]byte, error) {
	p := archive.New()
	for _, f := range list {
		p.Put(f.Name, f.Data)
	}
	return p.Bytes()
}

// with returns settings with others in their place, in pairs of a name and a value.
func with(s Settings, pairs ...string) Settings {
	out := Settings{}
	for name, v := range s {
		out[name] = v
	}
	for i := 0; i < len(pairs); i += 2 {
		out[pairs[i]] = pairs[i+1]
	}
	return out
}

// Show makes a page of the preview, counted from zero.
func Show(ctx context.Context, m *model.Map, f *Format, s Settings, page int) (*Preview, error) {
	j, err := New(m, f, s)
	if err != nil {
		return nil, err
	}
	out, err := f.show(ctx, j, page)
	if err != nil {
		return nil, err
	}
	words, err := j.words(ctx)
	out.Words = append(append(out.Words, j.said...), words...)
	return out, err
}

// words say which characters nothing can draw, and in which step each is.
func (j *Job) words(ctx context.Context) ([]string, error) {
	if !j.Format.Heeds("look") { // it is no drawing
		return nil, nil
	}
	list, err := j.Drawings(ctx)
	if err != nil {
		return nil, err
	}
	var out []string
	for _, d := range list {
		set, err := typeface.Of(d)
		if err != nil {
			return nil, &ChoiceError{err.Error()}
		}
		for i := range d.Nodes {
			n := &d.Nodes[i]
			var missing []rune
			for k := range n.Texts {
				for _, one := range n.Texts[k].Split() {
					line, err := set.Line(one.Text, one.Style)
					if err != nil {
						return nil, err
					}
					missing = append(missing, line.Missing...)
				}
			}
			if len(missing) > 0 {
				what := "A text"
				if sym := d.Sheet.Symbol(n.ID); sym != nil {
					what = fmt.Sprintf("“%s”", strings.Join(strings.Fields(sym.Text), " "))
				}
				if number := d.Facts.Numbers[n.ID]; number != "" {
					what = fmt.Sprintf("Step %s, %s", number, what)
				}
				out = append(out, fmt.Sprintf("%s: no font on this machine draws %s.", what, scene.Named(missing)))
			}
			if len(out) == 5 {
				return append(out, "And more."), nil
			}
		}
	}
	return out, nil
}

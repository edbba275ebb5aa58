package document

import (
	"archive/zip"
	"bytes"
	"errors"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"strings"

	"plaintracer/core/scene"
)

// Text is a document for word processors.
type Text struct {
	Blocks []Block
	// Pictures are those of sheets, by their ids.
	Pictures         map[string]Drawn
	Language, Author string
	// Head stands at the top of every page, Foot at its foot, before its number.
	Head, Foot string
}

// Drawn is a picture of a sheet as a PNG file.
type Drawn struct {
	Data []byte
	// Width and Height are those of the sheet in CSS pixels.
	Width, Height float64
}

func (t *Text) title() string {
	if len(t.Blocks) == 0 {
		return ""
	}
	return t.Blocks[0].Text()
}

var escape = scene.Escaped

// mostInPart bounds a part of a document of the organisation, and how many it has.
const (
	mostInPart = 16 << 20
	mostParts  = 500
)

// housePart is a file in a document of the organisation.
type housePart struct {
	name string
	data []byte
}

// houseParts are the parts of the document in the folder of the organisation whose styles are taken, in their order;
// none where there is no such document. The error names what is wrong with it.
func houseParts(name string) ([]housePart, error) {
	folder := folderOfHouse()
	if folder == "" {
		return nil, nil
	}
	name = filepath.Join(folder, name)
	data, err := os.ReadFile(name)
	if errors.Is(err, os.ErrNotExist) {
		return nil, nil
	}
	if err != nil {
		return nil, err
	}
	z, err := zip.NewReader(bytes.NewReader(data), int64(len(data)))
	if err != nil {
		return nil, fmt.Errorf("%w: %s: %v", ErrTemplate, name, err)
	}
	if len(z.File) > mostParts {
		return nil, fmt.Errorf("%w: %s has more than %d parts", ErrTemplate, name, mostParts)
	}
	var out []housePart
	for _, f := range z.File {
		if strings.HasSuffix(f.Name, "/") {
			continue
		}
		r, err := f.Open()
		if err != nil {
			return nil, fmt.Errorf("%w: %s: %s: %v", ErrTemplate, name, f.Name, err)
		}
		one, err := io.ReadAll(io.LimitReader(r, mostInPart+1))
		r.Close()
		if err != nil || len(one) > mostInPart {
			return nil, fmt.Errorf("%w: %s: %s cannot be read, or is larger than %d MB", ErrTemplate, name, f.Name,
				mostInPart>>20)
		}
		out = append(out, housePart{f.Name, one})
	}
	return out, nil
}

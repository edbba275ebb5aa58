package main

import (
	"archive/zip"
	"bytes"
	"context"
	"errors"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"strings"

	"github.com/spf13/cobra"

	"plaintracer/core/model"
	"plaintracer/exchange"
	"plaintracer/exchange/bundle"
	"plaintracer/exchange/carrier"
	"plaintracer/exchange/document"
	"plaintracer/exchange/tracerjson"
)

// readMap reads a map out of a file that is one, or that carries one; "-" is the standard input.
func readMap(name string) (*model.Map, error) {
	m, _, err := readWithFiles(name)
	return m, err
}

// readWithFiles reads a map, with the files that are kept with it where it comes in an archive with them.
func readWithFiles(name string) (m *model.Map, files exchange.Files, err error) {
	var data []byte
	if name == "-" {
		data, err = io.ReadAll(io.LimitReader(os.Stdin, bundle.MaxSize+1))
	} else {
		data, err = os.ReadFile(name)
	}
	if err != nil {
		return nil, nil, err
	}
	if bundle.Looks(data) {
		b, err := bundle.Open(bytes.NewReader(data), int64(len(data)))
		if err != nil {
			return nil, nil, fmt.Errorf("%s: %w", name, err)
		}
		data, files = b.Map, func(id string) (io.Reader, error) { return b.File(id) }
	}
	if data, err = carrier.Inside(data); err != nil {
		return nil, nil, fmt.Errorf("%s: %w", name, err)
	}
	if m, err = tracerjson.Read(data); err != nil {
		return nil, nil, fmt.Errorf("%s: %w", name, err)
	}
	return m, files, nil
}

// templatesHelp says what stands in the folder of templates.
const templatesHelp = "folder with the organisation's own words for procedures (words.tmpl) and documents whose " +
	"styles they take (template.docx, template.odt)"

// exporting is the command that makes files of a map. Its flags are the choices of the table of formats.
func exporting() *cobra.Command {
	var format, templates string
	values := map[string]*string{}
	c := &cobra.Command{
		Use: "export IN OUT...", Short: "Make pictures, documents and tables of a map", Args: cobra.MinimumNArgs(2),
		Long: "Make files of a map, each in the format that the ending of its name says.\n\nIN is a map file, an archive with one and its files, or an SVG, PNG or PDF file with a map inside; - is the standard input. OUT - is the standard\noutput, in the format of --format.\n\n" + formatsHelp(),
		Example: "  plaintracer export light.tracer.json light.pdf\n" +
			"  plaintracer export light.tracer.json light.pdf light.svg register.xlsx\n" +
			"  plaintracer export light.tracer.json wall.pdf --paper A4 --use tiles --overlap 12\n" +
			"  plaintracer export light.pdf sheet2.png --sheet 2 --size print --width 160 --dots 300\n" +
			"  plaintracer export light.tracer.json - --format procedure-markdown",
		RunE: func(c *cobra.Command, args []string) error {
			if templates != "" {
				if err := document.UseFolder(templates); err != nil {
					return err
				}
			}
			said := func(name string) (string, bool) {
				if c.Flags().Changed(name) {
					return *values[name], true
				}
				// A width is one on paper, and a sheet that is named the only one.
				for _, o := range exchange.Choices {
					if o.When == name && len(o.Values) == 1 && c.Flags().Changed(o.Name) {
						return o.Values[0], true
					}
				}
				return "", false
			}
			return export(c, args[0], args[1:], format, said)
		},
	}
	c.Flags().StringVar(&format, "format", "", "the format, where the name of a file does not say it: "+
		strings.Join(formatNames(), ", "))
	c.Flags().StringVar(&templates, "templates", "", templatesHelp)
	for _, choice := range exchange.Choices {
		v := new(string)
		values[choice.Name] = v
		c.Flags().StringVar(v, choice.Name, choice.Default, flagHelp(&choice))
		var options []string
		for _, o := range choice.Options {
			if o.Value != "" {
				options = append(options, o.Value+"\t"+o.Title)
			}
		}
		if choice.Kind == exchange.Yes {
			options = []string{"yes", "no"}
		}
		if err := c.RegisterFlagCompletionFunc(choice.Name, cobra.FixedCompletions(options,
			cobra.ShellCompDirectiveNoFileComp)); err != nil {
			panic(err) // two choices of one name
		}
	}
	if err := c.RegisterFlagCompletionFunc("format", cobra.FixedCompletions(formatNames(),
		cobra.ShellCompDirectiveNoFileComp)); err != nil {
		panic(err)
	}
	return c
}

func formatNames() []string {
	var out []string
	for i := range exchange.Formats {
		out = append(out, exchange.Formats[i].Name)
	}
	return out
}

func formatsHelp() string {
	out := "Formats:\n"
	for i := range exchange.Formats {
		f := &exchange.Formats[i]
		out += fmt.Sprintf("  %-18s %-18s %s: %s\n", f.Name, f.Ending, f.Title, f.About)
	}
	return strings.TrimRight(out, "\n")
}

// flagHelp says what a choice can be.
func flagHelp(c *exchange.Choice) string {
	out := c.Title
	switch {
	case c.Kind == exchange.List:
		var values []string
		for _, o := range c.Options {
			if o.Value == "" {
				out += " (" + strings.ToLower(o.Title[:1]) + o.Title[1:] + ", unless it is"
				continue
			}
			values = append(values, o.Value)
		}
		if strings.Contains(out, "unless") {
			return out + " " + strings.Join(values, ", ") + ")"
		}
		return out + ": " + strings.Join(values, ", ")
	case c.Kind == exchange.Number:
		return fmt.Sprintf("%s in %s, %g to %g", out, c.Unit, c.Least, c.Most)
	case c.About != "":
		return out + ": " + c.About
	}
	return out
}

// target is a file that is to be written.
type target struct {
	name     string
	format   *exchange.Format
	settings exchange.Settings
	data     []byte
	// beside are the files that go along with it, by their paths from its folder.
	beside map[string][]byte
}

// export makes all files and writes them. What cannot be made is said at the end, and leaves the others; a command that
// cannot be understood writes none.
func export(c *cobra.Command, in string, out []string, format string, said func(string) (string, bool)) error {
	var list []target
	for _, name := range out {
		f, err := exchange.Ending(name)
		if format != "" {
			if f = exchange.Named(format); f == nil {
				return fmt.Errorf("there is no format %q; there are %s", format, strings.Join(formatNames(), ", "))
			}
		} else if name == "-" {
			return errors.New("say with --format what goes to the standard output")
		} else if err != nil {
			return err
		}
		settings, err := exchange.Read(f, func(choice string) (string, bool) {
			value, ok := said(choice)
			if !ok && name == "-" && f.Name == "procedure-markdown" &&
				choice == "pictures" { // a stream has nothing beside it
				return "no", true
			}
			return value, ok
		})
		if err != nil {
			return err
		}
		list = append(list, target{name: name, format: f, settings: settings})
	}
	m, files, err := readWithFiles(in)
	if err != nil {
		return err
	}
	var faults []error
	for i := range list {
		t := &list[i]
		made, err := exchange.Make(context.Background(), m, t.format, t.settings, files)
		if err != nil {
			faults = append(faults, fmt.Errorf("%s: %w", t.name, err))
			continue
		}
		for _, words := range made.Words {
			fmt.Fprintf(c.ErrOrStderr(), "plaintracer: %s: %s\n", t.name, words)
		}
		if made.MediaType == "application/zip" && t.format.Name == "procedure-markdown" &&
			strings.HasSuffix(strings.ToLower(t.name), t.format.Ending) {
			if t.data, t.beside, err = unpacked(made.Data, t.format.Ending); err != nil {
				return fmt.Errorf("%s: %w", t.name, err)
			}
			continue
		}
		if made.Pour == nil && made.MediaType == "application/zip" &&
			!strings.HasSuffix(strings.ToLower(t.name), ".zip") && t.name != "-" {
			faults = append(faults, fmt.Errorf("%s: what was chosen makes several files, which are packed together; "+
				"call it .zip and give --format %s", t.name, t.format.Name))
			continue
		}
		if t.data, err = made.Whole(); err != nil {
			return fmt.Errorf("%s: %w", t.name, err)
		}
	}
	for _, t := range list {
		if t.data == nil {
			continue
		}
		if t.name == "-" {
			if _, err := c.OutOrStdout().Write(t.data); err != nil {
				return err
			}
			continue
		}
		if err := writeWhole(t.name, t.data); err != nil {
			return fmt.Errorf("%s was not written: %w", t.name, err)
		}
		for name, data := range t.beside {
			name = filepath.Join(filepath.Dir(t.name), filepath.FromSlash(name))
			if err := errors.Join(os.MkdirAll(filepath.Dir(name), 0o755), writeWhole(name, data)); err != nil {
				return fmt.Errorf("%s was not written: %w", name, err)
			}
		}
	}
	return errors.Join(faults...)
}

// unpacked are the files of an archive of ours: the one with an ending, and the others by their paths.
func unpacked(archive []byte, ending string) (main []byte, others map[string][]byte, err error) {
	z, err := zip.NewReader(bytes.NewReader(archive), int64(len(archive)))
	if err != nil {
		return nil, nil, err
	}
	others = map[string][]byte{}
	for _, f := range z.File {
		r, err := f.Open()
		if err != nil {
			return nil, nil, err
		}
		data, err := io.ReadAll(r)
		if err != nil {
			return nil, nil, err
		}
		if strings.HasSuffix(f.Name, ending) {
			main = data
		} else {
			others[f.Name] = data
		}
	}
	return main, others, nil
}

// writeWhole writes a file beside its place and moves it there, so that a full disk leaves no half of it.
func writeWhole(name string, data []byte) error {
	f, err := os.CreateTemp(filepath.Dir(name), ".plaintracer-*")
	if err != nil {
		return err
	}
	_, err = f.Write(data)
	err = errors.Join(err, f.Sync(), f.Close())
	if err == nil {
		err = errors.Join(os.Chmod(f.Name(), 0o644), os.Rename(f.Name(), name))
	}
	if err != nil {
		os.Remove(f.Name())
	}
	return err
}

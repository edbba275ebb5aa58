// Package exchange lists the formats in which maps go out: what each is called, what can be chosen for it, and how it
// is written. The application, its pages and the command line all read the list, so that a new format is one entry.
//
// Make makes a file: it takes the part of the map that was chosen, dresses it as it is to be shown, and has the format
// write it. Show makes the preview of the same.
package exchange

import (
	"context"
	"fmt"
	"io"
	"slices"
	"strings"

	"plaintracer/exchange/bundle"
	"plaintracer/exchange/document"
)

// Format is one kind of file.
type Format struct {
	// Name stands in addresses, Title and Icon on buttons, About under them.
	Name, Title, Icon, About string
	// Group is the heading under which it is offered.
	Group string
	// Ending is that of its files, with the dot; where several formats have one, the first is meant by it.
	Ending, MediaType string
	// Choices are the names of those it heeds, Defaults what stands for some of them where nothing is said.
	Choices  []string
	Defaults map[string]string
	// Single says that a file holds one sheet: those of a whole map are packed together.
	Single bool
	write  func(ctx context.Context, j *Job) ([]byte, error)
	// Where there is pour, it writes the file piece by piece, and write what its preview shows.
	pour func(j *Job, w io.Writer) error
	// show makes the preview; page counts from zero.
	show func(ctx context.Context, j *Job, page int) (*Preview, error)
}

// Heeds reports whether a choice matters to the format.
func (f *Format) Heeds(name string) bool { return slices.Contains(f.Choices, name) }

var (
	wholeMap = map[string]string{"what": "map"}
	sharp    = map[string]string{"scale": "2"}
	scope    = []string{"what", "sheet", "ids"}
	dress    = []string{"look", "numbers", "heading", "legend", "notes"}
	picture  = slices.Concat(scope, []string{"size", "scale", "pixels", "width", "dots", "area", "border"}, dress)
	sheetOf  = []string{"what", "sheet"}
)

// Formats are all formats, in the order in which they are offered.
var Formats = []Format{
	{Name: "pdf", Title: "PDF", Group: "Pages", Icon: "file-text", About: "Sharp pages to read, search and print.",
		Ending: ".pdf", MediaType: "application/pdf",
		Choices: slices.Concat(scope, []string{"paper", "way", "use", "margin", "overlap"}, dress,
			[]string{"inside", "files", "language", "date"}), Defaults: wholeMap, write: writePDF, show: showPages},
	{Name: "html", Title: "Web page", Group: "Pages", Icon: "globe",
		About: "One file to open anywhere: sheets, links, register, search.", Ending: ".html", MediaType: "text/html",
		Choices: slices.Concat(sheetOf, dress, []string{"files", "language"}), Defaults: wholeMap, write: writeHTML,
		show: showAsPage},
	{Name: "procedure-pdf", Title: "Procedure, PDF", Group: "Procedure", Icon: "scroll-text",
		About: "The map in words, step by step, with its drawings.", Ending: ".procedure.pdf",
		MediaType: "application/pdf",
		Choices: slices.Concat(sheetOf, []string{"paper", "pictures", "appendix"}, dress, []string{"inside",
			"language", "date"}),
		Defaults: wholeMap, write: writeProcedurePDF, show: showProcedurePages},
	{Name: "procedure-html", Title: "Procedure, web page", Group: "Procedure", Icon: "scroll-text",
		About: "The map in words as one page.", Ending: ".procedure.html", MediaType: "text/html",
		Choices:  slices.Concat(sheetOf, []string{"pictures", "appendix"}, dress, []string{"language"}),
		Defaults: wholeMap,
		write:    writeProcedureHTML, show: showAsPage},
	{Name: "procedure-docx", Title: "Procedure, DOCX", Group: "Procedure", Icon: "scroll-text",
		About: "For word processors (Office Open XML).", Ending: ".docx",
		MediaType: "application/vnd.openxmlformats-officedocument.wordprocessingml.document",
		Choices:   slices.Concat(sheetOf, []string{"pictures", "appendix"}, dress, []string{"language"}),
		Defaults:  wholeMap,
		write:     asText((*document.Text).Word), show: showProcedureText},
	{Name: "procedure-odt", Title: "Procedure, ODT", Group: "Procedure", Icon: "scroll-text",
		About: "For word processors (OpenDocument).", Ending: ".odt",
		MediaType: "application/vnd.oasis.opendocument.text",
		Choices:   slices.Concat(sheetOf, []string{"pictures", "appendix"}, dress, []string{"language"}),
		Defaults:  wholeMap,
		write:     asText((*document.Text).OpenDocument), show: showProcedureText},
	{Name: "procedure-markdown", Title: "Procedure, Markdown", Group: "Procedure", Icon: "scroll-text",
		About: "Plain text for wikis; with pictures, in an archive.", Ending: ".md", MediaType: "text/markdown",
		Choices:  slices.Concat(sheetOf, []string{"pictures", "appendix"}, dress),
		Defaults: wholeMap, write: writeProcedureMarkdown,
		show: showProcedureText},
	{Name: "slides-pdf", Title: "Slides, PDF", Group: "Slides", Icon: "presentation",
		About: "The stops, one a page of 16:9.", Ending: ".slides.pdf", MediaType: "application/pdf",
		Choices:  slices.Concat(sheetOf, dress, []string{"inside", "language", "date"}),
		Defaults: wholeMap, write: writeSlidesPDF, show: showSlides},
	{Name: "slides-pptx", Title: "Slides, editable", Group: "Slides", Icon: "presentation",
		About: "The stops as a presentation, their words as notes (PPTX).", Ending: ".pptx",
		MediaType: "application/vnd.openxmlformats-officedocument.presentationml.presentation",
		Choices:   slices.Concat(sheetOf, dress, []string{"language", "date"}),
		Defaults:  wholeMap, write: writeSlides, show: showSlides},
	{Name: "register-xlsx", Title: "Spreadsheet", Group: "Table", Icon: "table",
		About: "Register with its fields, lanes by steps, connectors, cases (XLSX).", Ending: ".xlsx",
		MediaType: "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet",
		Choices:   slices.Concat(sheetOf, []string{"date"}), Defaults: wholeMap, write: writeXLSX,
		show: showTable(registerTable, fieldsTable, lanesTable, connectorsTable)},
	{Name: "register-ods", Title: "Spreadsheet, ODS", Group: "Table", Icon: "table",
		About: "The same for other office programs (OpenDocument).", Ending: ".ods", MediaType: openSheetType,
		Choices: sheetOf, Defaults: wholeMap, write: writeODS,
		show: showTable(registerTable, fieldsTable, lanesTable, connectorsTable)},
	{Name: "register-csv", Title: "Register", Group: "Table", Icon: "table", About: "The steps in their order (CSV).",
		Ending: ".csv", MediaType: "text/csv",
		Choices: slices.Concat(sheetOf, []string{"separator"}), Defaults: wholeMap, write: asCSV(registerTable),
		show: showTable(registerTable)},
	{Name: "lanes-csv", Title: "Lanes by steps", Group: "Table", Icon: "table", About: "Who does which step (CSV).",
		Ending: ".lanes.csv", MediaType: "text/csv",
		Choices: slices.Concat(sheetOf, []string{"separator"}), Defaults: wholeMap, write: asCSV(lanesTable),
		show: showTable(lanesTable)},
	{Name: "connectors-csv", Title: "Connectors", Group: "Table", Icon: "table",
		About: "What leads to what, as a list of edges (CSV).", Ending: ".connectors.csv", MediaType: "text/csv",
		Choices: slices.Concat(sheetOf, []string{"separator"}), Defaults: wholeMap, write: asCSV(connectorsTable),
		show: showTable(connectorsTable)},
	{Name: "people-csv", Title: "People", Group: "Table", Icon: "table",
		About: "The cards of hierarchies, with whom each reports to (CSV).", Ending: ".people.csv",
		MediaType: "text/csv",
		Choices:   slices.Concat(sheetOf, []string{"separator"}), Defaults: wholeMap, write: asCSV(peopleTable),
		show: showTable(peopleTable)},
	{Name: "journey-csv", Title: "Journeys", Group: "Table", Icon: "table",
		About: "The rows of journeys by their stages (CSV).", Ending: ".journey.csv", MediaType: "text/csv",
		Choices: slices.Concat(sheetOf, []string{"separator"}), Defaults: wholeMap, write: asCSV(journeyTable),
		show: showTable(journeyTable)},
	{Name: "cases-csv", Title: "Cases", Group: "Table", Icon: "table",
		About: "The cases that were kept, each as the list of its steps (CSV).", Ending: ".cases.csv",
		MediaType: "text/csv", Choices: []string{"separator"}, write: asCSV(casesTable),
		show: showTable(casesTable)},
	{Name: "svg", Title: "SVG picture", Group: "Picture", Icon: "image",
		About: "Sharp at any size, for reports and web pages.", Ending: ".svg", MediaType: "image/svg+xml",
		Single:  true,
		Choices: slices.Concat(picture, []string{"clear", "letters", "inside"}), write: writeSVG, show: showAsPicture},
	{Name: "png", Title: "PNG picture", Group: "Picture", Icon: "image", About: "For slides and messages.",
		Ending: ".png", MediaType: "image/png", Single: true,
		Choices: slices.Concat(picture, []string{"clear", "inside"}), Defaults: sharp, write: writePNG,
		show: showAsPicture},
	{Name: "jpeg", Title: "JPEG picture", Group: "Picture", Icon: "image",
		About: "Where nothing else is taken. It never carries the map.", Ending: ".jpg", MediaType: "image/jpeg",
		Single:  true,
		Choices: slices.Concat(picture, []string{"quality"}), Defaults: sharp, write: writeJPEG, show: showAsPicture},
	{Name: "map", Title: "Map file", Group: "Map", Icon: "file-output",
		About: "Everything, to be opened and worked on.", Ending: ".tracer.json", MediaType: "application/json",
		Choices: sheetOf, Defaults: wholeMap, write: writeMap, show: showAsText},
	{Name: "map-files", Title: "Map with its files", Group: "Map", Icon: "paperclip",
		About: "The map file and the files kept with it, in an archive.", Ending: bundle.Ending,
		MediaType: "application/zip", Choices: sheetOf, Defaults: wholeMap, write: writeMap, pour: pourBundle,
		show: showAsText},
}

// Named returns the format of a name, or nil.
func Named(name string) *Format {
	for i := range Formats {
		if Formats[i].Name == name {
			return &Formats[i]
		}
	}
	return nil
}

// Ending returns the format of a file by the ending of its name; an error names those there are.
func Ending(file string) (*Format, error) {
	var known []string
	var best *Format // the one with the longest ending
	for i := range Formats {
		f := &Formats[i]
		if strings.HasSuffix(strings.ToLower(file), f.Ending) && (best == nil || len(f.Ending) > len(best.Ending)) {
			best = f
		}
		if !slices.Contains(known, Formats[i].Ending) {
			known = append(known, Formats[i].Ending)
		}
	}
	if best != nil {
		return best, nil
	}
	return nil, fmt.Errorf("files are written as %s, and %s is none of them", strings.Join(known, ", "), file)
}

// ChoiceError is a wish that cannot be met, in words for the person who asked.
type ChoiceError struct{ Text string }

func (w *ChoiceError) Error() string { return w.Text }

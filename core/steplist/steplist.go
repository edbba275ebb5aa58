// Package steplist reads lists of steps that anybody has written, in any form: it guesses by titles and by what stands
// there which column is what, says what reading it would do, and makes of it the table of steps that others of the
// house's packages read.
package steplist

import (
	"slices"
	"strconv"
	"strings"
	"unicode"

	"plaintracer/core/model"
	"plaintracer/core/symbols"
)

// What a column of a list of steps holds.
const (
	AsNothing = ""
	AsField   = "field"
	AsKind    = "kind"
	AsNumber  = "number"
	AsText    = "text"
	AsWho     = "who"
	AsNext    = "next"
	AsBefore  = "before"
	AsAnswer  = "answer"
)

// As are what a column of a list of steps can hold, each with its name, and the titles by which it is known: in
// English, German, French and Spanish, without their accents. The titles are common practice, no source.
var As = []struct {
	As, Name string
	Titles   []string
}{
	{AsText, "What is done", []string{"step", "schritt", "etape", "paso", "text", "activity", "tatigkeit", "activite",
		"actividad", "task", "aufgabe", "tache", "tarea", "process step", "prozessschritt", "arbeitsschritt",
		"etape du processus", "paso del proceso", "action", "accion", "what", "was", "quoi", "que", "what is done",
		"was ist zu tun", "que faire", "que se hace", "aktivitat", "arbeitsgang", "vorgang", "operation", "operacion",
		"description", "beschreibung", "descripcion", "name", "bezeichnung", "libelle", "intitule", "nombre", "title",
		"titel", "designation"}},
	{AsNumber, "Its number", []string{"number", "nummer", "numero", "no", "nr", "num", "n", "step number", "step no",
		"schritt nr", "schrittnummer", "numero d etape", "n etape", "numero de paso", "n paso", "id", "lfd nr",
		"laufende nummer", "pos", "position", "item", "ref", "reference", "key", "kennung", "identifiant", "code"}},
	{AsWho, "Who does it", []string{"who", "wer", "qui", "quien", "role", "rolle", "rol", "lane", "owner",
		"responsible",
		"verantwortlich", "responsable", "zustandig", "zustandigkeit", "verantwortung", "responsibility", "acteur",
		"actor",
		"department", "abteilung", "service", "departamento", "area", "team", "performed by", "done by", "by whom",
		"durch", "durchfuhrung", "ausfuhrende stelle", "bearbeiter", "stelle", "bereich", "par qui", "por quien",
		"executant", "ejecutor", "intervenant", "resource", "ressource", "recurso"}},
	{AsKind, "Its kind", []string{"kind", "art", "type", "typ", "tipo", "genre", "symbol", "symbole", "simbolo",
		"shape",
		"form", "clase"}},
	{AsNext, "What comes next", []string{"next", "weiter", "suivant", "siguiente", "next step", "nachster schritt",
		"etape suivante", "paso siguiente", "siguiente paso", "nachfolger", "successor", "successors", "successeur",
		"sucesor", "goes to", "leads to", "weiter mit", "weiter zu", "followed by", "gefolgt von", "then", "dann",
		"danach",
		"puis", "ensuite", "luego", "despues", "suite", "va a", "vers", "hacia", "goto", "go to", "to", "folgeschritt",
		"goes on to"}},
	{AsBefore, "What comes before", []string{"predecessor", "predecessors", "vorganger", "predecesseur", "predecesor",
		"previous", "previous step", "vorheriger schritt", "precedent", "etape precedente", "anterior", "paso anterior",
		"after", "nach", "apres", "depends on", "abhangig von", "depend de", "depende de", "from", "von"}},
	{AsAnswer, "What comes next on this answer", []string{"yes", "ja", "oui", "si", "if yes", "wenn ja", "bei ja",
		"si oui",
		"en caso si", "in case yes", "no", "nein", "non", "if no", "wenn nein", "bei nein", "si non", "si no",
		"en caso no",
		"falls ja", "falls nein", "otherwise", "sonst", "sinon", "ok", "not ok", "nicht ok", "approved", "rejected"}},
	{AsField, "A field of the map", nil},
	{AsNothing, "Nothing", nil},
}

// Blank says where a step leads that says nothing of it.
type Blank string

// BlankNext has the next line follow, BlankEnd ends the work there.
const (
	BlankNext Blank = "next"
	BlankEnd  Blank = "end"
)

// Reading is how a list of steps is read: in which row its titles are, counted from 1, and 0 for none; what its
// columns hold; and what it means that nothing is said of what comes next.
type Reading struct {
	Titles  int      `json:"titles"`
	Columns []string `json:"columns"`
	Blank   Blank    `json:"blank"`
	// Ends has what leads to a name that no step has lead to an end of that name; it is left out otherwise.
	Ends bool `json:"ends"`
}

// Column is a column of a list: its title, what it holds, and the first thing that stands there.
type Column struct {
	Title  string `json:"title"`
	As     string `json:"as"`
	Sample string `json:"sample"`
}

// Plan is what reading a list of steps would do.
type Plan struct {
	// Columns are those of the list: their titles, or the letters that spreadsheets give them.
	Columns []Column `json:"columns"`
	// Steps counts the steps, Links what leads from one to another, Lanes names who does them.
	Steps int      `json:"steps"`
	Links int      `json:"links"`
	Lanes []string `json:"lanes"`
	// Wrong says by their cells what cannot be read; it is left out.
	Wrong []string `json:"wrong"`
	Notes []string `json:"notes"`
	// Refusal says why nothing can be made of it.
	Refusal string `json:"refusal,omitempty"`
}

// folded is a text as it is compared: in small letters, without accents, marks and doubled spaces.
func folded(text string) string {
	var out strings.Builder
	for _, r := range strings.ToLower(text) {
		if plain := plainLetters[r]; plain != "" {
			out.WriteString(plain)
		} else if unicode.IsLetter(r) || unicode.IsDigit(r) {
			out.WriteRune(r)
		} else {
			out.WriteByte(' ')
		}
	}
	return strings.Join(strings.Fields(out.String()), " ")
}

// plainLetters are letters of the languages whose titles are known without their accents.
var plainLetters = map[rune]string{'ä': "a", 'ö': "o", 'ü': "u", 'ß': "ss", 'é': "e", 'è': "e", 'ê': "e", 'ë': "e",
	'à': "a", 'â': "a", 'á': "a", 'ç': "c", 'î': "i", 'ï': "i", 'í': "i", 'ô': "o", 'ó': "o", 'û': "u", 'ù': "u",
	'ú': "u", 'ñ': "n", 'œ': "oe", '°': " ", 'º': " ", '№': "n"}

// meanings are what a title can mean, the likeliest first.
func meanings(title string) (list []string) {
	words := folded(title)
	rank := map[string]int{}
	for _, c := range As {
		if i := slices.Index(c.Titles, words); i >= 0 {
			list, rank[c.As] = append(list, c.As), i
		}
	}
	slices.SortStableFunc(list, func(a, b string) int { return rank[a] - rank[b] })
	return list
}

// cellAt is a cell of a row without spaces around it; empty beyond its end.
func cellAt(row []string, k int) string {
	if k < 0 || k >= len(row) {
		return ""
	}
	return strings.TrimSpace(row[k])
}

// CellName is what spreadsheets call a cell, both counted from zero.
func CellName(row, column int) string { return columnName(column) + strconv.Itoa(row+1) }

func columnName(k int) string {
	name := ""
	for k++; k > 0; k = (k - 1) / 26 {
		name = string(rune('A'+(k-1)%26)) + name
	}
	return name
}

// kindNames are names of kinds beside their own ones, without accents.
var kindNames = map[string]model.Kind{"task": model.Process, "activity": model.Process, "step": model.Process,
	"action": model.Process, "aufgabe": model.Process, "tatigkeit": model.Process, "aktivitat": model.Process,
	"prozess": model.Process, "schritt": model.Process, "vorgang": model.Process, "tache": model.Process,
	"activite": model.Process, "etape": model.Process, "processus": model.Process, "tarea": model.Process,
	"actividad": model.Process, "paso": model.Process, "proceso": model.Process, "accion": model.Process,
	"question": model.Decision, "entscheidung": model.Decision, "frage": model.Decision, "verzweigung": model.Decision,
	"choice": model.Decision, "choix": model.Decision, "pregunta": model.Decision,
	"gateway": model.Decision, "start": model.Terminator, "end": model.Terminator, "beginn": model.Terminator,
	"anfang": model.Terminator, "ende": model.Terminator, "debut": model.Terminator, "fin": model.Terminator,
	"inicio": model.Terminator, "startereignis": model.Terminator, "endereignis": model.Terminator,
	"dokument": model.Document, "documento": model.Document, "form": model.Document, "formular": model.Document,
	"formulaire": model.Document, "formulario": model.Document}

// kindNamed returns the kind of a name, in the languages whose titles are known.
func kindNamed(name string) (model.Kind, bool) {
	if k := model.Kind(strings.ToLower(strings.TrimSpace(name))); k.Known() {
		return k, true
	}
	words := folded(name)
	for _, k := range model.Kinds {
		if folded(symbols.Of(k).Name) == words {
			return k, true
		}
	}
	k, ok := kindNames[words]
	return k, ok
}

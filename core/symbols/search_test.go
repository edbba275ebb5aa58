package symbols

import (
	"slices"
	"testing"

	"plaintracer/core/model"
)

// Forty ways in which people describe what they look for, and the symbols that are right. The phrases are ours.
func TestSymbolsAreFoundByDescription(t *testing.T) {
	for phrase, right := range map[string][]model.Kind{
		"start or end":                       {model.Terminator, model.RoundEnd},
		"where it begins":                    {model.Terminator, model.RoundEnd},
		"paper form somebody fills in":       {model.Document},
		"waiting":                            {model.Delay, model.Waiting},
		"speech":                             {model.CallOut},
		"computer":                           {model.Display, model.Database, model.ManualInput},
		"stored on disk":                     {model.DirectStorage, model.Database},
		"another procedure":                  {model.Predefined},
		"yes or no":                          {model.Decision},
		"a question":                         {model.Decision},
		"somebody does something":            {model.Process, model.ManualOperation},
		"work by hand without a machine":     {model.ManualOperation},
		"typed in at the keyboard":           {model.ManualInput},
		"shown on a screen":                  {model.Display},
		"go on on the next page":             {model.SheetReference},
		"jump to another place on the sheet": {model.Reference},
		"at the same time":                   {model.ParallelMode},
		"two paths come together":            {model.SummingJunction, model.Merge, model.ParallelMode},
		"repeat until done":                  {model.LoopEnd, model.LoopStart},
		"several copies of a form":           {model.Documents},
		"letter":                             {model.Document},
		"records kept in a system":           {model.Database, model.StoredData},
		"archive on tape":                    {model.SequentialStorage},
		"index card":                         {model.Card},
		"receipt from a roll":                {model.PunchedTape},
		"sort by date":                       {model.Sort},
		"pick some out of many":              {model.Extract},
		"put together":                       {model.Merge, model.Collate},
		"comment for the reader":             {model.Note, model.Annotation},
		"explanation beside a step":          {model.Annotation},
		"heading":                            {model.PlainText},
		"box around what belongs together":   {model.Frame},
		"phase of a project":                 {model.StageMark},
		"who takes part":                     {model.Person},
		"photo":                              {model.Picture},
		"what the symbols mean":              {model.Legend},
		"list of all sheets":                 {model.Contents},
		"check the quality":                  {model.Inspection},
		"carry to another place":             {model.Transport},
		"wait for the delivery":              {model.Delay, model.Waiting},
		"employee with picture":              {model.PersonCard},
		"getting ready":                      {model.Preparation},
	} {
		list := Search(phrase)
		best := -1
		for i, s := range list[:min(len(list), 3)] {
			if slices.Contains(right, s.Kind) {
				best = i
				break
			}
		}
		if best < 0 {
			var got []string
			for _, s := range list[:min(len(list), 5)] {
				got = append(got, s.Name)
			}
			t.Errorf("%q finds %q", phrase, got)
		}
	}
	if len(Search("")) != len(All()) || len(Search("qqq")) != 0 {
		t.Error("nothing does not find all, or nonsense finds something")
	}
	// While it is typed, what is meant stays near.
	for _, part := range []string{"wai", "wait", "waiti", "waitin", "waiting"} {
		if list := Search(part); len(list) == 0 || list[0].Kind != model.Delay && list[0].Kind != model.Waiting {
			t.Errorf("%q finds %v first", part, list)
		}
	}
}

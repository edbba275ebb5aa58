package attack

import (
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"math/rand/v2"
	"runtime/debug"
	"testing"

	"plaintracer/core/edit"
	"plaintracer/core/model"
	"plaintracer/exchange/tracerjson"
)

// Whatever edit comes, sound, mutated or wild: one that is accepted leaves a map that
// validates, whose file reads back to the same bytes, and which the inverse brings back to
// the bytes before; one that is refused changes nothing, and one that is unmade leaves
// nothing behind. Played again from its log, the map comes to the same bytes.
func TestNoEditBreaksAMap(t *testing.T) {
	var met tally
	for seed := *firstSeed; seed < *firstSeed+uint64(*editRounds); seed++ {
		if !editRound(t, seed, &met) {
			return
		}
	}
	t.Logf("%d edits were made, %d unmade, %d refused, and %d could not be read", met.made, met.unmade, met.refused,
		met.unreadable)
	if all := met.made + met.unmade + met.refused + met.unreadable; met.made < all/5 || met.refused < all/5 {
		t.Errorf("the edits do not try enough: %+v", met)
	}
}

// tally counts what became of the edits.
type tally struct{ made, unmade, refused, unreadable int }

// editsInRound is how many edits meet one map before the next begins.
const editsInRound = 250

func editRound(t *testing.T, seed uint64, met *tally) bool {
	w := &wild{rnd: rand.New(rand.NewPCG(seed, 14))}
	m := w.begin()
	first := m.Clone()
	now := marshal(t, m)
	var log [][]byte
	for n := range editsInRound {
		raw := w.edit(m)
		fail := func(format string, args ...any) bool {
			t.Errorf("seed %d, edit %d: %s\nthe edit: %.4000s\nthe map: %.6000s", seed, n, fmt.Sprintf(format, args...),
				raw, now)
			return false
		}
		var e edit.Envelope
		if json.Unmarshal(raw, &e) != nil {
			met.unreadable++
			continue
		}
		trial, panicked, err := attempt(m, e.Edit)
		switch {
		case panicked != "":
			return fail("it panicked: %s", panicked)
		case err != nil:
			var refusal *model.Refusal
			if !errors.As(err, &refusal) {
				return fail("it ended with %v, which is no refusal", err)
			}
			if after := marshal(t, m); !bytes.Equal(after, now) {
				return fail("it was refused (%v) and left %s", err, after)
			}
			met.refused++
			continue
		case w.rnd.IntN(10) == 0:
			trial.Rollback()
			if after := marshal(t, m); !bytes.Equal(after, now) {
				return fail("it was unmade and left %s", after)
			}
			met.unmade++
			continue
		}
		after := marshal(t, m)
		if err := m.Validate(); err != nil {
			return fail("it was accepted and left a fault: %v: %s", err, after)
		}
		file, err := tracerjson.Write(m)
		if err != nil {
			return fail("writing the file: %v", err)
		}
		read, err := tracerjson.Read(file)
		if err != nil {
			return fail("the file does not read back: %v", err)
		}
		if again, err := tracerjson.Write(read); err != nil || !bytes.Equal(again, file) {
			return fail("the file reads back as another: %v\n%s\n%s", err, file, again)
		}
		inverse := trial.Inverse()
		back := m.Clone()
		if _, err := edit.Apply(back, decoded(t, inverse)); err != nil {
			return fail("it cannot be taken back: %v", err)
		}
		if got := marshal(t, back); !bytes.Equal(got, now) {
			return fail("taken back it leaves %s", got)
		}
		w.remember(raw, inverse)
		met.made++
		log, now = append(log, marshal(t, trial.Changes())), after
	}
	for n, raw := range log {
		var changes []edit.Change
		if err := json.Unmarshal(raw, &changes); err != nil {
			t.Fatal(err)
		}
		if err := edit.Enact(first, changes); err != nil {
			t.Errorf("seed %d: entry %d of the log cannot be read: %v: %s", seed, n, err, raw)
			return false
		}
	}
	first.SettleAll()
	if got := marshal(t, first); !bytes.Equal(got, now) {
		t.Errorf("seed %d: the log leads to %s, not %s", seed, got, now)
		return false
	}
	return true
}

func attempt(m *model.Map, e edit.Edit) (trial *edit.Transaction, panicked string, err error) {
	defer func() {
		if p := recover(); p != nil {
			panicked = fmt.Sprintf("%v\n%s", p, debug.Stack())
		}
	}()
	trial, err = edit.Attempt(m, e)
	return trial, "", err
}

// decoded sends an edit over the wire.
func decoded(t *testing.T, e edit.Edit) edit.Edit {
	var out edit.Envelope
	if err := json.Unmarshal(marshal(t, edit.Envelope{Edit: e}), &out); err != nil {
		t.Fatal(err)
	}
	return out.Edit
}

func marshal(t testing.TB, v any) []byte {
	raw, err := json.Marshal(v)
	if err != nil {
		t.Fatal(err)
	}
	return raw
}

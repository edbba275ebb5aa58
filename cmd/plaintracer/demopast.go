package main

import (
	"context"
	"fmt"
	"slices"
	"time"

	"plaintracer/account"
	"plaintracer/app/documents"
	"plaintracer/app/house"
	"plaintracer/app/rounds"
	"plaintracer/core/edit"
	"plaintracer/core/flow"
	"plaintracer/core/model"
	"plaintracer/core/numbering"
	"plaintracer/review"
	"plaintracer/store"
)

// The demo's map of a street light has a past, as invented as the rest of it: a round of review that ended with its
// remarks settled, what was changed after it, and a round that runs and waits for Ida.

// reworded are the texts of steps as they are, and as they were before the first round.
var reworded = [][2]string{
	{"Log the report", "Note the report"},
	{"Order the missing parts", "Order the parts"},
	{"Test the light", "Test"},
}

// younger takes what the first round brought out of a map that has no past yet.
func younger(m *model.Map) error {
	for _, words := range reworded {
		sheet, step := stepSaying(m, words[0])
		if step == nil {
			return fmt.Errorf("no step says %q", words[0])
		}
		if _, err := edit.Apply(m, &edit.SetText{Sheet: sheet.ID, ID: step.ID, Text: words[1]}); err != nil {
			return err
		}
	}
	return nil
}

func stepSaying(m *model.Map, text string) (*model.Sheet, *model.Symbol) {
	for _, sheet := range m.Sheets {
		for _, s := range sheet.Symbols {
			if s.Text == text {
				return sheet, s
			}
		}
	}
	return nil, nil
}

// past makes what happened on a map; after a fault it does nothing more.
type past struct {
	house *house.House
	doc   *documents.Document
	// people are Ida, Jonas and Selma, by their ids.
	people []string
	window string
	seq    int
	day    time.Time
	round  *store.Round
	err    error
}

// liveThrough gives a map its past, which ends yesterday. The times of what is kept are those it tells of.
func liveThrough(h *house.House, id string, people []string) error {
	d, err := h.Documents.Open(id)
	if err != nil {
		return err
	}
	p := &past{house: h, doc: d, people: people}
	p.window, _ = d.NewWindow()
	store.SetClock(func() time.Time { return p.day })
	const ida, jonas, selma = 0, 1, 2
	p.do(func() error {
		return h.Folders.Grant(account.Grant{Place: account.Place{Map: id}, Person: people[jonas],
			Right: account.Manage})
	})

	p.do(func() error {
		return h.Groups.Set(store.Group{Name: "Desk and stores", People: []string{people[jonas], people[selma]}})
	})
	p.at(20, 9, 40)
	p.ask(ida, "Is this how a report comes in and gets repaired?", 0, store.Verdict{Who: people[jonas],
		Name: name(jonas)},
		store.Verdict{Who: people[selma], Name: name(selma)}, store.Verdict{Who: "name:runa dahl", Name: "Runa Dahl",
			Email: "runa.dahl@crew.example"})
	p.at(20, 11, 5)
	log := p.remark(jonas, "Note the report", "We log it in the desk tool; nothing is noted by hand.", "Log the report")
	p.at(19, 8, 20)
	order := p.remark(selma, "Order the parts", "Only what is missing is ordered. The rest lies on the shelf.", "")
	p.at(19, 8, 50)
	p.answer(ida, order, "Right, I name it so.")
	p.at(18, 7, 15)
	test := p.remark(-1, "Test", "What is tested? We test the light, not the pole.", "")
	p.do(func() error { return p.say("name:runa dahl", "Runa Dahl", review.WithRemarks, "see my remark") })
	p.at(17, 15, 30)
	p.do(func() error { return p.say(people[jonas], name(jonas), review.Agreed, "") })
	p.at(16, 10, 10)
	p.do(func() error { return p.say(people[selma], name(selma), review.Agreed, "") })
	p.at(16, 13, 0)
	for i, thread := range []string{log, order, test} {
		p.reword(ida, reworded[i][1], reworded[i][0])
		p.do(func() error {
			if thread == log {
				return h.Remarks.AnswerProposal(thread, store.Taken, name(ida))
			}
			return h.Remarks.Settle(thread, name(ida), true)
		})
	}
	p.at(16, 14, 20)
	p.end(ida)

	p.at(9, 9, 5)
	p.whole(jonas, "The crew asks why #4 comes before the inspection.")
	p.at(9, 9, 12)
	p.whole(ida, "A second report of the same light needs no second visit; then only the date is given (#5).")
	p.at(9, 9, 20)
	p.whole(selma, "Good. From the stores nothing is missing then.")

	p.at(2, 10, 30)
	p.ask(jonas, "Before the crew works by it from Monday: does it hold now?", 7, store.Verdict{Who: people[ida],
		Name: name(ida)},
		store.Verdict{Who: people[selma], Name: name(selma)})
	p.at(1, 8, 45)
	p.do(func() error { return p.say(people[selma], name(selma), review.Agreed, "") })
	p.at(1, 9, 30)
	p.remark(selma, "All in stock?", "@"+name(ida)+", who decides when one part is there and the other is not?", "")
	return p.err
}

func name(i int) string { return demoPeople[i].Name }

func (p *past) do(what func() error) {
	if p.err == nil {
		p.err = what()
	}
}

// at goes to a time of day some days ago.
func (p *past) at(days, hour, minute int) {
	p.day = daysAgo(days, hour, minute)
}

func daysAgo(days, hour, minute int) time.Time {
	y, m, d := time.Now().AddDate(0, 0, -days).Date()
	return time.Date(y, m, d, hour, minute, 0, 0, time.Local)
}

// ask asks for a review of the map as it is, for some days from then on; zero for no end.
func (p *past) ask(by int, word string, days int, whom ...store.Verdict) {
	p.do(func() error {
		if err := rounds.HoldNumbers(p.doc, p.people[by], name(by), p.day); err != nil {
			return err
		}
		version, err := p.doc.KeepAs(store.Keep{Author: p.people[by], Word: word, Reason: store.ForRound,
			Draw: rounds.DrawSheets(context.Background())})
		if err != nil {
			return err
		}
		r := store.Round{Map: p.doc.ID, Asker: p.people[by], Word: word, Needs: review.All, Version: version,
			Verdicts: whom}
		if days > 0 {
			r.Until = time.Date(p.day.Year(), p.day.Month(), p.day.Day()+days+1, 0, 0, 0, 0, time.Local)
		}
		id, _, err := p.house.Rounds.Begin(r)
		if err != nil {
			return err
		}
		if _, err = p.house.Rounds.Tell(id); err != nil {
			return err
		}
		list, err := p.house.Rounds.Of(p.doc.ID)
		if err == nil {
			p.round = &list[slices.IndexFunc(list, func(one store.Round) bool { return one.ID == id })]
		}
		return err
	})
}

func (p *past) say(who, called, verdict, why string) error {
	return p.house.Rounds.Say(p.round.ID, store.Verdict{Who: who, Name: called, Verdict: verdict, Reason: why,
		Visitor: p.visitor(who)})
}

// visitor is the browser of somebody who is asked by name; nothing for people in the organisation.
func (p *past) visitor(who string) string {
	if slices.Contains(p.people, who) {
		return ""
	}
	return "demo"
}

// author fills in who says something: one of the organisation, or with -1 the one who is asked by name.
func (p *past) author(by int, r store.Remark) store.Remark {
	if by >= 0 {
		r.Author, r.Name = p.people[by], name(by)
		return r
	}
	for _, v := range p.round.Verdicts {
		if v.ByLink() {
			r.Author, r.Visitor, r.Name = "link:"+v.Link, "demo", v.Name
		}
	}
	return r
}

// remark says something of the step with a text, in the round.
func (p *past) remark(by int, step, text, proposal string) (thread string) {
	p.do(func() (err error) {
		m, _ := p.doc.Snapshot()
		sheet, s := stepSaying(m, step)
		if s == nil {
			return fmt.Errorf("no step says %q", step)
		}
		thread, err = p.house.Remarks.Add(p.author(by, store.Remark{Map: p.doc.ID, Round: p.round.ID, Text: text,
			Proposal: proposal, Anchor: store.Anchor{Item: s.ID, Sheet: sheet.ID, Text: s.Text,
				Number: numbering.Labels(flow.New(m))[s.ID]}}), nil)
		return err
	})
	return thread
}

func (p *past) answer(by int, thread, text string) {
	p.do(func() error {
		_, err := p.house.Remarks.Add(p.author(by, store.Remark{Map: p.doc.ID, Thread: thread, Round: p.round.ID,
			Text: text}), nil)
		return err
	})
}

// whole says something of the whole map, between rounds.
func (p *past) whole(by int, text string) (thread string) {
	p.do(func() (err error) {
		thread, err = p.house.Remarks.Add(p.author(by, store.Remark{Map: p.doc.ID, Text: text}), nil)
		return err
	})
	return thread
}

func (p *past) reword(by int, from, to string) {
	p.do(func() error {
		m, _ := p.doc.Snapshot()
		sheet, s := stepSaying(m, from)
		if s == nil {
			return fmt.Errorf("no step says %q", from)
		}
		p.seq++
		_, err := p.doc.ApplyAs(p.people[by], p.window, p.seq, &edit.SetText{Sheet: sheet.ID, ID: s.ID, Text: to})
		return err
	})
}

// end ends the round as of the version that was asked about.
func (p *past) end(by int) {
	p.do(func() error {
		list, err := p.house.Rounds.Of(p.doc.ID)
		if err != nil {
			return err
		}
		return rounds.New(p.house, nil, "", "").End(&list[0], p.doc, name(by), false, nil)
	})
}

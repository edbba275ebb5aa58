package accounts

import (
	"errors"
	"strconv"

	"github.com/gofiber/fiber/v3"

	"plaintracer/account"
	"plaintracer/app/phrase"
	"plaintracer/review"
	"plaintracer/store"
)

// SetHabits changes what is proposed for rounds of review, and allowed in them.
func (s *Accounts) SetHabits(c fiber.Ctx) error {
	days, err := strconv.Atoi("0" + c.FormValue("remind"))
	h := review.Habits{Needs: review.Rule(c.FormValue("needs")), Remind: days, Final: c.FormValue("final") != "",
		Sign: c.FormValue("sign") != "", TakeIn: c.FormValue("take-in") != ""}
	if err != nil || days > 60 || !h.Needs.Known() {
		return s.peopleForm(c, "", "People are reminded every 1 to 60 days, or never.")
	}
	if err := s.House.Rounds.SetHabits(h); err != nil {
		return err
	}
	s.Note(c, "changed how rounds of review are held", "")
	return s.peopleForm(c, "That is how rounds are proposed from now on.", "")
}

// SetGroup keeps a group of people who are asked together.
func (s *Accounts) SetGroup(c fiber.Ctx) error {
	name, err := account.Name(c.FormValue("name"))
	if err != nil {
		return s.peopleForm(c, "", phrase.Sentence(err.Error()))
	}
	g := store.Group{ID: c.FormValue("group"), Name: name}
	for _, raw := range c.Request().PostArgs().PeekMulti("person") {
		g.People = append(g.People, string(raw))
	}
	switch err := s.House.Groups.Set(g); {
	case errors.Is(err, store.ErrTaken):
		return s.peopleForm(c, "", "There is a group "+name+" already.")
	case errors.Is(err, store.ErrFull):
		return s.peopleForm(c, "", "There are as many groups as are kept. Remove one first.")
	case errors.Is(err, store.ErrNotFound):
		return s.peopleForm(c, "", "This group is not there any more.")
	case err != nil:
		return err
	}
	s.Note(c, "kept the group "+name, "")
	return s.peopleForm(c, "The group "+name+" is kept.", "")
}

// RemoveGroup removes a group; its people stay.
func (s *Accounts) RemoveGroup(c fiber.Ctx) error {
	if err := s.House.Groups.Remove(c.Params("group")); err != nil && !errors.Is(err, store.ErrNotFound) {
		return err
	}
	s.Note(c, "removed a group", "")
	return s.peopleForm(c, "The group is removed.", "")
}

// groupView is a group as the page of people shows it.
type groupView struct {
	store.Group
	// In says of each person of the organisation, by their id, whether they are in it.
	In map[string]bool
}

// reviewing fills in what the page of people says of reviews.
func (s *Accounts) reviewing(p *peoplePage) (err error) {
	if p.Habits, err = s.House.Rounds.Habits(); err != nil {
		return err
	}
	p.Rules = review.Rules
	groups, err := s.House.Groups.List()
	if err != nil {
		return err
	}
	for _, g := range append(groups, store.Group{}) {
		view := groupView{g, map[string]bool{}}
		for _, id := range g.People {
			view.In[id] = true
		}
		p.Groups = append(p.Groups, view)
	}
	return nil
}

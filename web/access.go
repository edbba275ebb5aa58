package web

import (
	"errors"

	"github.com/gofiber/fiber/v3"

	"plaintracer/store"
)

// right is what somebody may do with a map. Each right holds those before it.
type right uint8

const (
	mayRead right = iota + 1
	mayEdit       // change the map, and see what only editors see
	mayOwn        // share it, move it to the bin and bring it back
)

// visit is a request for one map, by somebody who may do something with it. Handlers ask it for
// what they need and never see how the map is named in the store.
type visit struct {
	s     *Server
	id    string
	right right
	// base is the address below which everything of the map is found, for pages and scripts.
	base string
	// link is the id of the link a reader came by; empty for others. Chosen says what it allows.
	link   string
	chosen store.Choices
}

type visitKey struct{}

// at returns the visit of a request.
func at(c fiber.Ctx) *visit { return c.Locals(visitKey{}).(*visit) }

// document opens the map.
func (v *visit) document() (*store.Document, error) { return v.s.store.Document(v.id) }

// route is a page or file of a map: its address below that of the map, and what it takes to ask
// for it.
type route struct {
	method, path string
	needs        right
	answer       func(*Server, fiber.Ctx) error
}

// routes adds the addresses of a map to an application, each behind its right. Who finds out who
// asks, and what they may do; it is the only place that turns an address into a map.
func (s *Server) routes(app *fiber.App, prefix string, who func(c fiber.Ctx) (*visit, error), list []route) {
	for _, r := range list {
		app.Add([]string{r.method}, prefix+r.path, func(c fiber.Ctx) error {
			v, err := who(c)
			if err != nil {
				return err
			}
			if v.right < r.needs {
				return fiber.NewError(fiber.StatusForbidden, "You may not do this with this map.")
			}
			c.Locals(visitKey{}, v)
			return r.answer(s, c)
		})
	}
}

// owner lets whoever asks do everything: the editor answers on this machine only.
func (s *Server) owner(c fiber.Ctx) (*visit, error) {
	id := c.Params("id")
	return &visit{s: s, id: id, right: mayOwn, base: "/maps/" + id}, nil
}

// reader lets whoever has a link read the map it leads to, once they have given its passcode where it has one.
func (s *Server) reader(c fiber.Ctx) (*visit, error) {
	f, err := s.followed(c)
	if err != nil {
		return nil, err
	}
	if f.Locked && !s.store.Proved(f, c.Cookies(proofCookie)) {
		return nil, &locked{}
	}
	return &visit{s: s, id: f.Map, right: mayRead, base: "/read/" + c.Params("token"), link: f.ID, chosen: f.Choices}, nil
}

// followed returns where the link of a request leads.
func (s *Server) followed(c fiber.Ctx) (*store.Followed, error) {
	f, ended, err := s.store.Follow(c.Params("token"))
	if errors.Is(err, store.ErrNotFound) {
		text := "There is no map behind this link. Check that it was copied whole, or ask for a new one."
		if !ended.IsZero() {
			text = "This link ended on " + ended.Format("2 January 2006") + ". Ask its owner for a new one."
		}
		return nil, fiber.NewError(fiber.StatusGone, text)
	}
	return &f, err
}

package accounts

import (
	"context"
	"crypto/rand"
	"errors"
	"fmt"
	"log"
	"strings"

	"github.com/coreos/go-oidc/v3/oidc"
	"github.com/gofiber/fiber/v3"
	"golang.org/x/oauth2"

	"plaintracer/account"
	"plaintracer/store"
	"plaintracer/web/site"
)

func (s *Accounts) noDirectory(err error) error {
	log.Printf("the directory: %v", err)
	return fiber.NewError(fiber.StatusBadGateway,
		"The directory of the organisation does not answer. Try again in a moment, or sign in with your password.")
}

// ToDirectory sends somebody to the directory to sign in.
func (s *Accounts) ToDirectory(c fiber.Ctx) error {
	if s.Directory == nil {
		return fiber.ErrNotFound
	}
	ctx, stop := context.WithTimeout(context.Background(), site.AskTime)
	defer stop()
	_, config, err := s.Directory.Ask(ctx, s.Address)
	if err != nil {
		return s.noDirectory(err)
	}
	state, nonce, verifier := rand.Text(), rand.Text(), oauth2.GenerateVerifier()
	s.Keep(c, site.DirectoryCookie, state+"."+nonce+"."+verifier)
	return c.Redirect().Status(fiber.StatusSeeOther).To(config.AuthCodeURL(state, oidc.Nonce(nonce),
		oauth2.S256ChallengeOption(verifier)))
}

// FromDirectory signs in whom the directory vouches for.
func (s *Accounts) FromDirectory(c fiber.Ctx) error {
	if s.Directory == nil {
		return fiber.ErrNotFound
	}
	kept := strings.Split(s.Kept(c, site.DirectoryCookie), ".")
	s.Keep(c, site.DirectoryCookie, "")
	if len(kept) != 3 || kept[0] == "" || c.Query("state") != kept[0] {
		return s.signInForm(c, "",
			"This answer of the directory belongs to no sign-in that was begun here. Begin again.")
	}
	if c.Query("error") != "" {
		return s.signInForm(c, "", "The directory did not let you in.")
	}
	ctx, stop := context.WithTimeout(context.Background(), site.AskTime)
	defer stop()
	claims, err := s.Directory.Redeem(ctx, s.Address, c.Query("code"), kept[1], kept[2])
	if err != nil {
		log.Printf("the directory: %v", err)
		return s.signInForm(c, "", "What the directory says of you cannot be trusted. Begin again.")
	}
	p, err := s.knownTo(c, claims)
	var wrong *site.FormFault
	if errors.As(err, &wrong) {
		return s.signInForm(c, "", wrong.Error())
	}
	if err != nil {
		return err
	}
	if err := s.SignIn(c, p); err != nil {
		return err
	}
	return c.Redirect().Status(fiber.StatusSeeOther).To("/")
}

// knownTo returns the person whom the directory vouches for: the one it named before, the one with that address, or a
// new member.
func (s *Accounts) knownTo(c fiber.Ctx, v site.Vouched) (account.Person, error) {
	p, err := s.House.People.BySubject(v.Subject)
	if errors.Is(err, store.ErrNotFound) {
		p, err = s.NewFrom(c, v)
	}
	if err == nil && !p.Off.IsZero() {
		err = site.FormError("Your account is deactivated. Ask an administrator.")
	}
	return p, err
}

// NewFrom makes an account for somebody for whom the directory vouches.
func (s *Accounts) NewFrom(c fiber.Ctx, v site.Vouched) (account.Person, error) {
	email, _, err := account.Address(v.Email)
	if err != nil || v.Verified != nil && !*v.Verified || v.Verified == nil && !s.Directory.Trusting {
		return account.Person{}, site.FormError("The directory does not vouch for an address of yours for mail.")
	}
	p, _, err := s.House.People.ByMail(email)
	if err == nil {
		if v.Verified == nil { // a new person may come so, but nobody becomes one who is here already
			return p,
				site.FormError("The directory does not vouch for the address that somebody in the organisation has.")
		}
		if p.Directory {
			return p, site.FormError("The directory calls somebody else by your address. Ask an administrator.")
		}
		s.NoteBy(c, p.Email, "is known to the directory from now on", p.Email)
		return p, s.House.People.SetSubject(p.ID, v.Subject)
	}
	if !errors.Is(err, store.ErrNotFound) {
		return p, err
	}
	if some, err := s.House.People.Any(); err != nil || !some {
		return p, errors.Join(err,
			site.FormError("The organisation has no administrator yet. The first one is made with a password."))
	}
	name, err := account.Name(v.Name)
	if err != nil {
		name, _, _ = strings.Cut(email, "@")
	}
	id, err := s.House.People.Add(store.NewPerson{Name: name, Email: email, Role: account.Member, Subject: v.Subject})
	if err != nil {
		return p, fmt.Errorf("adding a person from the directory: %w", err)
	}
	s.NoteBy(c, email, "came into the organisation by the directory", email)
	return s.House.People.Get(id)
}

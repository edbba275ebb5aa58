package web

import (
	"context"
	"crypto/rand"
	"errors"
	"fmt"
	"log"
	"strings"
	"sync"
	"time"

	"github.com/coreos/go-oidc/v3/oidc"
	"github.com/gofiber/fiber/v3"
	"golang.org/x/oauth2"

	"plaintracer/account"
	"plaintracer/store"
)

// Directory signs people in whom the house's own directory knows (OpenID Connect Core 1.0: the code flow, with a nonce and
// with PKCE, RFC 7636). It is asked for when it is first needed, so that the application starts without it.
type Directory struct {
	// Issuer is its address, Client and Secret how it knows this application.
	Issuer, Client, Secret string
	// Trusting takes the addresses for mail that it says for those of the people, where it does not say whether it has verified
	// them.
	Trusting bool

	mu       sync.Mutex
	provider *oidc.Provider
}

// askTime is how long the directory may take for an answer.
const askTime = 10 * time.Second

func (d *Directory) ask(ctx context.Context, address string) (*oidc.Provider, *oauth2.Config, error) {
	d.mu.Lock()
	defer d.mu.Unlock()
	if d.provider == nil {
		p, err := oidc.NewProvider(ctx, d.Issuer)
		if err != nil {
			return nil, nil, err
		}
		d.provider = p
	}
	return d.provider, &oauth2.Config{ClientID: d.Client, ClientSecret: d.Secret, Endpoint: d.provider.Endpoint(), RedirectURL: address + "/directory/back",
		Scopes: []string{oidc.ScopeOpenID, "profile", "email"}}, nil
}

func (s *Server) noDirectory(err error) error {
	log.Printf("the directory: %v", err)
	return fiber.NewError(fiber.StatusBadGateway, "The directory of the house does not answer. Try again in a moment, or sign in with your password.")
}

// toDirectory sends somebody to the directory to sign in.
func (s *Server) toDirectory(c fiber.Ctx) error {
	if s.Directory == nil {
		return fiber.ErrNotFound
	}
	ctx, stop := context.WithTimeout(context.Background(), askTime)
	defer stop()
	_, config, err := s.Directory.ask(ctx, s.Address)
	if err != nil {
		return s.noDirectory(err)
	}
	state, nonce, verifier := rand.Text(), rand.Text(), oauth2.GenerateVerifier()
	s.keep(c, directoryCookie, state+"."+nonce+"."+verifier)
	return c.Redirect().Status(fiber.StatusSeeOther).To(config.AuthCodeURL(state, oidc.Nonce(nonce), oauth2.S256ChallengeOption(verifier)))
}

// fromDirectory signs in whom the directory vouches for.
func (s *Server) fromDirectory(c fiber.Ctx) error {
	if s.Directory == nil {
		return fiber.ErrNotFound
	}
	kept := strings.Split(s.kept(c, directoryCookie), ".")
	s.keep(c, directoryCookie, "")
	if len(kept) != 3 || kept[0] == "" || c.Query("state") != kept[0] {
		return s.signInForm(c, "", "This answer of the directory belongs to no sign-in that was begun here. Begin again.")
	}
	if c.Query("error") != "" {
		return s.signInForm(c, "", "The directory did not let you in.")
	}
	ctx, stop := context.WithTimeout(context.Background(), askTime)
	defer stop()
	claims, err := s.Directory.redeem(ctx, s.Address, c.Query("code"), kept[1], kept[2])
	if err != nil {
		log.Printf("the directory: %v", err)
		return s.signInForm(c, "", "What the directory says of you cannot be trusted. Begin again.")
	}
	p, err := s.knownTo(c, claims)
	var wrong *unfit
	if errors.As(err, &wrong) {
		return s.signInForm(c, "", wrong.text)
	}
	if err != nil {
		return err
	}
	if err := s.signIn(c, p); err != nil {
		return err
	}
	return c.Redirect().Status(fiber.StatusSeeOther).To("/")
}

// vouched is what the directory says of a person.
type vouched struct {
	subject  string
	Name     string `json:"name"`
	Email    string `json:"email"`
	Verified *bool  `json:"email_verified"`
}

// redeem asks the directory for whom a code stands, and checks what it says (OpenID Connect Core 1.0, 3.1.3.7).
func (d *Directory) redeem(ctx context.Context, address, code, nonce, verifier string) (v vouched, err error) {
	provider, config, err := d.ask(ctx, address)
	if err != nil {
		return v, err
	}
	token, err := config.Exchange(ctx, code, oauth2.VerifierOption(verifier))
	if err != nil {
		return v, err
	}
	raw, ok := token.Extra("id_token").(string)
	if !ok {
		return v, errors.New("it says nobody's name")
	}
	id, err := provider.Verifier(&oidc.Config{ClientID: d.Client}).Verify(ctx, raw)
	if err != nil {
		return v, err
	}
	if id.Nonce != nonce {
		return v, errors.New("the answer is to another question")
	}
	v.subject = id.Issuer + " " + id.Subject
	return v, id.Claims(&v)
}

// knownTo returns the person whom the directory vouches for: the one it named before, the one with that address, or a new
// member of the house.
func (s *Server) knownTo(c fiber.Ctx, v vouched) (account.Person, error) {
	p, err := s.house.People.BySubject(v.subject)
	if errors.Is(err, store.ErrNotFound) {
		p, err = s.newFrom(c, v)
	}
	if err == nil && !p.Off.IsZero() {
		err = &unfit{"Your account is switched off. Ask an owner of the house."}
	}
	return p, err
}

func (s *Server) newFrom(c fiber.Ctx, v vouched) (account.Person, error) {
	email, _, err := account.Address(v.Email)
	if err != nil || v.Verified != nil && !*v.Verified || v.Verified == nil && !s.Directory.Trusting {
		return account.Person{}, &unfit{"The directory does not vouch for an address of yours for mail."}
	}
	p, _, err := s.house.People.ByMail(email)
	if err == nil {
		if v.Verified == nil { // a new person may come so, but nobody becomes one who is here already
			return p, &unfit{"The directory does not vouch for the address that somebody of the house has."}
		}
		if p.Directory {
			return p, &unfit{"The directory calls somebody else by your address. Ask an owner of the house."}
		}
		s.noteBy(c, p.Email, "is known to the directory from now on", p.Email)
		return p, s.house.People.SetSubject(p.ID, v.subject)
	}
	if !errors.Is(err, store.ErrNotFound) {
		return p, err
	}
	if some, err := s.house.People.Any(); err != nil || !some {
		return p, errors.Join(err, &unfit{"The house has no owner yet. The first one is made with a password."})
	}
	name, err := account.Name(v.Name)
	if err != nil {
		name, _, _ = strings.Cut(email, "@")
	}
	id, err := s.house.People.Add(store.NewPerson{Name: name, Email: email, Role: account.Member, Subject: v.subject})
	if err != nil {
		return p, fmt.Errorf("adding a person from the directory: %w", err)
	}
	s.noteBy(c, email, "came into the house by the directory", email)
	return s.house.People.Get(id)
}

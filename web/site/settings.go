package site

import (
	"context"
	"errors"
	"net/netip"
	"sync"
	"time"

	"github.com/coreos/go-oidc/v3/oidc"
	"golang.org/x/oauth2"

	"plaintracer/mail"
)

// Directory signs people in whom the organisation's own directory knows (OpenID Connect Core 1.0: the code flow, with a
// nonce and with PKCE, RFC 7636). It is asked for when it is first needed, so that the application starts without it.
type Directory struct {
	// Issuer is its address, Client and Secret how it knows this application.
	Issuer, Client, Secret string
	// Trusting takes the addresses for mail that it says for those of the people, where it does not say whether it has
	// verified them.
	Trusting bool

	mu       sync.Mutex
	provider *oidc.Provider
}

// AskTime is how long the directory may take for an answer.
const AskTime = 10 * time.Second

// Ask finds the directory, which sends people back to an address of ours.
func (d *Directory) Ask(ctx context.Context, address string) (*oidc.Provider, *oauth2.Config, error) {
	d.mu.Lock()
	defer d.mu.Unlock()
	if d.provider == nil {
		p, err := oidc.NewProvider(ctx, d.Issuer)
		if err != nil {
			return nil, nil, err
		}
		d.provider = p
	}
	return d.provider, &oauth2.Config{ClientID: d.Client, ClientSecret: d.Secret, Endpoint: d.provider.Endpoint(),
		RedirectURL: address + "/directory/back",
		Scopes:      []string{oidc.ScopeOpenID, "profile", "email"}}, nil
}

// Settings are how the application is served.
type Settings struct {
	// Address is where people find it, such as https://maps.town.example, without a slash at the end. LinksURL is where
	// links are found that are served apart; empty where they are not.
	Address, LinksURL string
	// Proxies are the addresses of the proxies by which it is reached, which are believed to say who asks, and by which
	// host and scheme.
	Proxies []netip.Prefix
	// Local has it answer to names of this machine alone, LinksLocal where links are served apart.
	Local, LinksLocal bool
	// As is the id of the person whom it takes everybody for who is not signed in, and then answers on this machine
	// only; empty for nobody. Demo lets people choose whom to be.
	As   string
	Demo bool
	// FirstKey is what the first owner of a new house has to show. One is made where none is given.
	FirstKey string
	// FileRoom is how many bytes the files kept with all maps take together at most; zero for no bound.
	FileRoom int64
	// Mail carries messages; nil to let them lie in the outbox, which administrators can look into.
	Mail mail.Sender
	// Directory signs people in who are known to the organisation's own directory; nil for none.
	Directory *Directory
}

// Vouched is what the directory says of a person.
type Vouched struct {
	Subject  string
	Name     string `json:"name"`
	Email    string `json:"email"`
	Verified *bool  `json:"email_verified"`
}

// Redeem asks the directory for whom a code stands, and checks what it says (OpenID Connect Core 1.0, 3.1.3.7).
func (d *Directory) Redeem(ctx context.Context, address, code, nonce, verifier string) (v Vouched, err error) {
	provider, config, err := d.Ask(ctx, address)
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
	v.Subject = id.Issuer + " " + id.Subject
	return v, id.Claims(&v)
}

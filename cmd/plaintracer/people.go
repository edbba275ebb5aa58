package main

import (
	"errors"
	"fmt"
	"io"
	"strings"
	"text/tabwriter"
	"time"

	"github.com/spf13/cobra"

	"plaintracer/account"
	"plaintracer/store"
)

// ticketTime is how long a link is good that is made on the command line.
const ticketTime = 24 * time.Hour

// people are the commands for the people in the organisation. They work while the application runs.
func people() *cobra.Command {
	var data, address, name, role string
	c := &cobra.Command{Use: "people",
		Short: "List, add and reset the people in the organisation, while the application runs or not",
		Args:  cobra.NoArgs,
		RunE:  func(c *cobra.Command, _ []string) error { return c.Help() }}
	c.PersistentFlags().StringVar(&data, "data", "data", "folder that keeps the maps")
	c.PersistentFlags().StringVar(&address, "address", "http://127.0.0.1:8080",
		"where people find the application; the links that are printed begin with it")
	in := func(do func(s *store.Store, out io.Writer, email string) error) func(*cobra.Command, []string) error {
		return func(c *cobra.Command, args []string) error {
			s, err := store.OpenBeside(data)
			if err != nil {
				return err
			}
			defer s.Close()
			return do(s, c.OutOrStdout(), append(args, "")[0])
		}
	}
	add := &cobra.Command{Use: "add ADDRESS", Short: "Add a person, and print the link by which they choose a password",
		Args:    cobra.ExactArgs(1),
		Example: "  plaintracer people add ida.brandt@town.example --name \"Ida Brandt\" --role owner --data /var/lib/plaintracer",
		RunE: in(func(s *store.Store, out io.Writer, email string) error {
			if role != string(account.Owner) && role != string(account.Member) {
				return fmt.Errorf("a person is owner or member, not %q", role)
			}
			called, err := account.Name(name)
			if err != nil {
				return fmt.Errorf("--name: %w", err)
			}
			id, err := s.People.Add(store.NewPerson{Name: called, Email: email, Role: roleNamed(role)})
			if errors.Is(err, store.ErrTaken) {
				return fmt.Errorf("somebody with the address %s is in the organisation already", email)
			}
			if err != nil {
				return err
			}
			return errors.Join(s.Audit.Note(store.Event{Who: "the command line", What: "added a person as " + role,
				About: email, Origin: "this machine"}), ticket(s, out, id, address, store.Invitation, "/invited/"))
		})}
	add.Flags().StringVar(&name, "name", "", "what the person is called")
	add.Flags().StringVar(&role, "role", string(account.Member), "administrator or member")
	c.AddCommand(add,
		&cobra.Command{Use: "list", Short: "List the people in the organisation", Args: cobra.NoArgs,
			RunE: in(listPeople)},
		&cobra.Command{Use: "reset ADDRESS", Short: "Print a link by which a person chooses a new password",
			Args: cobra.ExactArgs(1),
			RunE: in(func(s *store.Store, out io.Writer, email string) error {
				p, _, err := s.People.ByMail(email)
				if errors.Is(err, store.ErrNotFound) {
					return fmt.Errorf("nobody in the organisation has the address %s", email)
				}
				if err != nil {
					return err
				}
				return errors.Join(s.Audit.Note(store.Event{Who: "the command line",
					What: "made a link for a new password", About: p.Email, Origin: "this machine"}),
					ticket(s, out, p.ID, address, store.NewWord, "/reset/"))
			})})
	return c
}

func ticket(s *store.Store, out io.Writer, person, address, purpose, path string) error {
	until := time.Now().Add(ticketTime)
	token, err := s.Sessions.NewTicket(purpose, person, until)
	if err == nil {
		_, err = fmt.Fprintf(out, "Good once, until %s:\n%s%s%s\n", until.Format("2 January 2006, 15:04"), address,
			path, token)
	}
	return err
}

func listPeople(s *store.Store, out io.Writer, _ string) error {
	list, err := s.People.List()
	if err != nil {
		return err
	}
	w := tabwriter.NewWriter(out, 0, 4, 2, ' ', 0)
	for _, p := range list {
		state := "has a password"
		switch {
		case !p.Off.IsZero():
			state = "deactivated since " + p.Off.Format(time.DateOnly)
		case p.Directory:
			state = "signs in by the directory"
		case !p.Locked:
			state = "invited"
		}
		seen := "never here"
		if !p.Seen.IsZero() {
			seen = "last here " + p.Seen.Format(time.DateOnly)
		}
		fmt.Fprintf(w, "%s\t%s\t%s\t%s\t%s\n", p.Name, p.Email, p.Role, state, seen)
	}
	return w.Flush()
}

// roleNamed reads a role as a person writes it: an administrator is kept as the owner of the organisation.
func roleNamed(text string) account.Role {
	if strings.EqualFold(text, "administrator") {
		return account.Owner
	}
	return account.Role(text)
}

package live

import (
	"encoding/json"
	"errors"
	"sync"
	"testing"
	"time"

	"plaintracer/account"
	"plaintracer/core/model"
	"plaintracer/store"
)

// pipe is a connection whose window says what is put into it, and hears what is taken out.
type pipe struct {
	says  chan string
	hears chan string
	gone  chan struct{}
}

func newPipe() *pipe {
	return &pipe{make(chan string, 10), make(chan string, 100), make(chan struct{})}
}

func (p *pipe) Read(time.Duration) ([]byte, error) {
	select {
	case text := <-p.says:
		return []byte(text), nil
	case <-p.gone:
		return nil, errors.New("it is closed")
	}
}

func (p *pipe) Write(raw []byte, _ time.Duration) error { p.hears <- string(raw); return nil }
func (p *pipe) Ping(time.Duration) error                { return nil }

func (p *pipe) Close() error {
	select {
	case <-p.gone:
	default:
		close(p.gone)
	}
	return nil
}

// showing waits for the next word on what is shown.
func (p *pipe) showing(t *testing.T) Showing {
	t.Helper()
	for late := time.After(10 * time.Second); ; {
		select {
		case text := <-p.hears:
			var m struct {
				Kind string
				Showing
			}
			if err := json.Unmarshal([]byte(text), &m); err != nil {
				t.Fatal(err)
			}
			if m.Kind == "showing" {
				return m.Showing
			}
		case <-late:
			t.Fatal("nothing is said of what is shown")
		}
	}
}

// What somebody in the organisation shows is told to the others, by name to those who may know it, and to those who
// come later; the latest who shows is followed, and what a visitor by a link or a stranger to the form says is heard by
// nobody.
func TestShowing(t *testing.T) {
	s, err := store.Open(t.TempDir())
	if err != nil {
		t.Fatal(err)
	}
	defer s.Close()
	people := map[string]string{}
	for _, name := range []string{"Ida", "Jonas", "Selma"} {
		if people[name], err = s.People.Add(store.NewPerson{Name: name, Email: name + "@town.example",
			Role: account.Member}); err != nil {
			t.Fatal(err)
		}
	}
	id, err := s.Maps.CreateFor(model.New("Map", model.Rightwards, "A4", true), people["Ida"], "")
	if err != nil {
		t.Fatal(err)
	}
	for _, name := range []string{"Jonas", "Selma"} {
		if err := s.Folders.Grant(account.Grant{Place: account.Place{Map: id}, Person: people[name],
			Right: account.Remark}); err != nil {
			t.Fatal(err)
		}
	}
	if _, err := s.Links.Create(id, people["Ida"], store.Choices{Right: account.Read}, ""); err != nil {
		t.Fatal(err)
	}
	links, err := s.Links.Of(id)
	if err != nil {
		t.Fatal(err)
	}
	l := New(s, "")
	var served sync.WaitGroup
	var pipes []*pipe
	defer func() { // before the store
		for _, p := range pipes {
			p.Close()
		}
		served.Wait()
	}()
	open := func(who Who) *pipe {
		p := newPipe()
		served.Go(func() { l.ServeReader(p, who, id, nil) })
		pipes = append(pipes, p)
		return p
	}
	reader := open(Who{Link: links[0].ID, Needs: account.Read, Right: account.Read, Name: "somebody by a link"})
	jonas := open(Who{Person: people["Jonas"], Needs: account.Read, Right: account.Remark, Name: "Jonas"})
	ida := open(Who{Person: people["Ida"], Needs: account.Read, Right: account.Manage, Name: "Ida"})
	for len(l.Windows(id, func(*Window) bool { return true })) < 3 {
		time.Sleep(time.Millisecond)
	}
	reader.says <- `{"kind":"showing","stop":"mine"}`
	ida.says <- `{"kind":"showing","stop":"no id!"}`
	ida.says <- `{"kind":"showing","stop":"one"}`
	if got := jonas.showing(t); got != (Showing{"Ida", "one", ""}) {
		t.Errorf("a person is told %+v", got)
	}
	if got := reader.showing(t); got != (Showing{"", "one", ""}) {
		t.Errorf("a reader is told %+v", got)
	}
	late := open(Who{Person: people["Selma"], Needs: account.Read, Right: account.Remark, Name: "Selma"})
	if got := late.showing(t); got != (Showing{"Ida", "one", ""}) {
		t.Errorf("who comes late is told %+v", got)
	}
	jonas.says <- `{"kind":"showing","at":"step"}`
	if got := late.showing(t); got != (Showing{"Jonas", "", "step"}) {
		t.Errorf("when another takes over is told %+v", got)
	}
	ida.says <- `{"kind":"showing"}` // hers is over already
	ida.Close()
	jonas.Close()
	if got := late.showing(t); got != (Showing{}) {
		t.Errorf("when it is over is told %+v", got)
	}
}

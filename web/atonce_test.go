package web

import (
	"context"
	"fmt"
	"net/http"
	"net/url"
	"sync"
	"testing"
	"time"

	"plaintracer/account"
	"plaintracer/core/model"
	"plaintracer/store"
	"plaintracer/web/site"
)

// Several people are at work on several maps at once: they edit, remark, export, look at home, come by links, sign out
// and lose rights, while the words of maps are noted and a backup is made. Under the race detector ("make race") this
// finds what two requests share without asking.
func TestManyAtOnce(t *testing.T) {
	h := openTown(t, site.Settings{}, false)
	const maps, edits = 4, 12
	var ids, links []string
	for k := range maps {
		id, err := h.s.Maps.CreateFor(model.New(fmt.Sprint("Map ", k), model.Rightwards, "A4", true), h.people["ida"],
			"")
		if err != nil {
			t.Fatal(err)
		}
		if err := h.s.Folders.Grant(account.Grant{Place: account.Place{Map: id}, Person: h.people["jonas"],
			Right: account.Edit}); err != nil {
			t.Fatal(err)
		}
		token, err := h.s.Links.Create(id, h.people["ida"], store.Choices{Right: account.Remark, Download: true}, "")
		if err != nil {
			t.Fatal(err)
		}
		ids, links = append(ids, id), append(links, "/m/"+token)
	}
	var all sync.WaitGroup
	for _, name := range []string{"ida", "jonas"} {
		for _, id := range ids {
			g := h.enter(name)
			w := g.window("/maps/" + id)
			all.Go(func() {
				for n := 1; n <= edits; n++ {
					w.seq++
					sym := fmt.Sprintf(`{"id":"%s-%d","kind":"process","text":"Step","x":%d,"y":10000,"w":12000,"h":8000}`, w.name, n, n*20000)
					if err := w.WriteMessage(1,
						fmt.Appendf(nil,
							`{"kind":"edit","seq":%d,"edit":{"do":"addItems","sheet":"sheet-1","symbols":[%s]}}`, w.seq,
							sym)); err != nil {
						t.Error(err)
						return
					}
					if kind, all := w.hear("saved", "refused", "ended"); kind != "saved" {
						t.Errorf("%s: %s", name, all)
						return
					}
				}
			})
			all.Go(func() {
				for _, path := range []string{"/", "/maps/" + id, "/maps/" + id + "/register",
					"/maps/" + id + "/findings", "/maps/" + id + "/remarks", "/maps/" + id + "/history",
					"/maps/" + id + "/export/svg",
					"/maps/" + id + "/thumbnail.svg", "/?q=Step", "/maps/" + id + "/changes?from=r0"} {
					if r, body := g.do("GET", path, nil); r.StatusCode != 200 &&
						r.StatusCode != http.StatusServiceUnavailable {
						t.Errorf("%s answers %d %.200s", path, r.StatusCode, body)
					}
				}
				if r, _ := g.do("POST", "/maps/"+id+"/remarks", url.Values{"text": {"A remark"}}); r.StatusCode != 200 {
					t.Errorf("a remark is answered by %d", r.StatusCode)
				}
			})
		}
	}
	for _, link := range links {
		g := newGuest(t, h.base)
		all.Go(func() {
			conn, _, err := g.dial(link + "/live")
			if err != nil {
				t.Error(err)
				return
			}
			defer conn.Close()
			reader := &window{Conn: conn}
			reader.hear("changed")
			if r, _ := g.do("POST", link+"/remarks", url.Values{"text": {"By link"},
				"called": {"Jo"}}); r.StatusCode != 200 {
				t.Errorf("a remark by link is answered by %d", r.StatusCode)
			}
			g.do("GET", link+"/export/svg", nil)
		})
	}
	all.Go(func() { // somebody comes and goes
		for range 3 {
			g := h.enter("mara")
			conn, answer, err := g.dial("/maps/" + h.id + "/live")
			if err != nil {
				if answer != nil && answer.StatusCode == http.StatusNotFound { // the map lies in the bin just now
					continue
				}
				t.Error(err)
				return
			}
			g.do("POST", "/sign-out", nil)
			conn.Close()
		}
	})
	all.Go(func() { // rights come and go, and the bin
		ida := h.enter("ida")
		for _, right := range []string{"edit", "read", "none", "edit"} {
			ida.do("POST", "/maps/"+h.id+"/people", url.Values{"person": {h.people["jonas"]}, "right": {right}})
		}
		ida.do("POST", "/maps/"+h.id+"/delete", nil)
		ida.do("POST", "/maps/"+h.id+"/restore", nil)
	})
	all.Go(func() {
		if err := store.Backup(context.Background(), h.folder, t.TempDir()+"/copy.db"); err != nil {
			t.Error(err)
		}
		h.server.Post.Send("changed", "p@town.example", "", map[string]any{"Name": "N", "When": "now", "Link": "l"})
		if err := h.s.Letters.Tidy(time.Now()); err != nil {
			t.Error(err)
		}
	})
	all.Wait()
	for _, id := range ids {
		d, err := h.s.Documents.Open(id)
		if err != nil {
			t.Fatal(err)
		}
		d.View(func(m *model.Map, _ int) {
			if n := len(m.Sheets[0].Symbols); n != 2*edits {
				t.Errorf("the map has %d steps, not %d", n, 2*edits)
			}
		})
	}
}

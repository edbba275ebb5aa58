// Package web is the application's server: which address is answered by which page, and what it takes to ask for it.
// The pages are in the packages below it.
package web

import (
	"io/fs"

	"github.com/gofiber/fiber/v3"

	"plaintracer/account"
	"plaintracer/app/house"
	"plaintracer/app/rounds"
	"plaintracer/store"
	"plaintracer/web/accounts"
	"plaintracer/web/desk"
	"plaintracer/web/reviews"
	"plaintracer/web/sharing"
	"plaintracer/web/shelf"
	"plaintracer/web/site"
)

// folderRoute is what is answered for a folder, to people in the organisation.
type folderRoute struct {
	method, path string
	needs        account.Right
	answer       func(fiber.Ctx, account.Folder) error
}

func (s *Server) folderRouteList() []folderRoute {
	return []folderRoute{
		{"POST", "/rename", account.Manage, s.shelf.RenameFolder},
		{"POST", "/move", account.Manage, s.shelf.MoveFolder},
		{"POST", "/remove", account.Manage, s.shelf.RemoveFolder},
		{"GET", "/people", account.Manage, s.sharing.FolderShares},
		{"POST", "/people", account.Manage, s.sharing.ShareFolder},
	}
}

// folderRoutes adds what is answered for folders, each behind its right.
func (s *Server) folderRoutes(app *fiber.App) {
	for _, r := range s.folderRouteList() {
		app.Add([]string{r.method}, "/folders/:folder"+r.path, func(c fiber.Ctx) error {
			m := site.WhoAsks(c)
			if m == nil {
				return s.AskWho(c)
			}
			rules, err := s.House.Folders.Rules()
			if err != nil {
				return err
			}
			f := rules.Folder(c.Params("folder"))
			right := rules.OnFolder(m.ID, f.ID)
			if right == account.None {
				return store.ErrNotFound
			}
			if right < r.needs {
				return fiber.NewError(fiber.StatusForbidden,
					"You may "+account.Rights[right].Verb+
						" what is in this folder, and this takes the right to manage it. Ask its owner.")
			}
			return r.answer(c, f)
		})
	}
}

// mapRoutes are what is answered for a map, to people in the organisation and by links.
func (s *Server) mapRoutes() []route {
	list := []route{
		{"GET", "", account.Read, s.desk.Open, false},
		{"GET", "/sheet/:sheet", account.Read, s.desk.ReadSheet, false},
		{"GET", "/face/:face", account.Read, s.desk.ReadFace, false},
		{"GET", "/trace", account.Read, s.desk.Trace, false},
		{"GET", "/show", account.Read, s.desk.Show, false},
		{"GET", "/live", account.Read, s.desk.ReadSocket, false},
		{"GET", "/state", account.Edit, s.desk.State, false},
		{"GET", "/socket", account.Edit, s.desk.Socket, false},
		{"GET", "/table", account.Edit, s.desk.Open, false},
		{"POST", "/table", account.Edit, s.desk.ReadTable, false},
		{"POST", "/arrangement", account.Edit, s.desk.ArrangeRegister, false},
		{"POST", "/work", account.Edit, s.desk.Work, false},
		{"POST", "/fonts", account.Edit, s.desk.ReadFont, false},
		{"POST", "/files", account.Edit, s.desk.BeginFile, false},
		{"POST", "/files/:upload", account.Edit, s.desk.AddFile, false},
		{"GET", "/files/:file", account.Read, s.desk.ReadFile, false},
		{"GET", "/maps", account.Read, s.desk.OtherMaps, false},
		{"GET", "/aside", account.Edit, s.desk.Aside, false},
		{"POST", "/remarks", account.Remark, s.reviews.AddRemark, false},
		{"GET", "/talk", account.Remark, s.reviews.Talk, false},
		{"POST", "/talk", account.Remark, s.reviews.SayInTalk, false},
		{"POST", "/talk/writing", account.Remark, s.reviews.WritesInTalk, false},
		{"GET", "/remarks/:remark/picture", account.Remark, s.reviews.RemarkPicture, false},
		{"POST", "/remarks/:remark/settle", account.Remark, s.reviews.SettleRemark, false},
		{"POST", "/remarks/:remark/pin", account.Remark, s.reviews.PinRemark, false},
		{"POST", "/remarks/:remark/edit", account.Remark, s.reviews.RewordRemark, false},
		{"POST", "/remarks/:remark/delete", account.Remark, s.reviews.DeleteRemark, false},
		{"POST", "/remarks/:remark/proposal", account.Edit, s.reviews.AnswerProposal, false},
		{"GET", "/rounds/:round", account.Remark, s.reviews.ShowRound, false},
		{"GET", "/rounds/:round/page.:format", account.Remark, s.reviews.RoundFile, false},
		{"POST", "/rounds/:round/say", account.Remark, s.reviews.SayInRound, false},
		{"POST", "/versions", account.Edit, s.reviews.KeepVersion, false},
		{"GET", "/versions/:state", account.Remark, s.reviews.ShowVersion, false},
		{"GET", "/versions/:state/return", account.Edit, s.reviews.ReturnTo, false},
		{"GET", "/versions/:state/sheet.svg", account.Remark, s.reviews.VersionSheet, false},
		{"GET", "/changes", account.Read, s.reviews.Changes, false},
		{"GET", "/changes/side.svg", account.Read, s.reviews.ChangesSide, false},
		{"GET", "/changes/account.:format", account.Read, s.reviews.ChangesFile, false},
	}
	for _, method := range []string{"GET", "POST"} {
		list = append(list, route{method, "/export/:format", account.Read, s.desk.Export, true},
			route{method, "/preview/:format", account.Read, s.desk.Preview, true},
			route{method, "/print/:format", account.Read, s.desk.Print, true})
	}
	for i := range desk.Panels {
		p := &desk.Panels[i]
		list = append(list, route{"GET", "/" + p.Name, p.Needs, func(c fiber.Ctx) error { return p.Answer(s.desk, c) },
			p.Needs == account.Read})
	}
	return list
}

// linkRoutes are what is answered by links alone.
func (s *Server) linkRoutes() []route {
	return []route{
		{"GET", "/picture.:format", account.Read, s.desk.Embedded, false},
		{"GET", "/frame", account.Read, s.desk.Frame, false},
	}
}

// ownRoutes are what is answered for a map to people in the organisation alone.
func (s *Server) ownRoutes() []route {
	return []route{
		{"GET", "/thumbnail.svg", account.Read, s.shelf.Thumbnail, false},
		{"POST", "/rename", account.Edit, s.shelf.Rename, false},
		{"GET", "/map/:other", account.Read, s.desk.GoToMap, false},
		{"POST", "/sheet/:sheet/send", account.Edit, s.desk.SendSheet, false},
		{"POST", "/copy", account.Read, s.shelf.Copy, false},
		{"POST", "/versions/:state/copy", account.Remark, s.reviews.CopyVersion, false},
		{"POST", "/start", account.Manage, s.shelf.SaveStart, false},
		{"POST", "/delete", account.Manage, s.shelf.Delete, false},
		{"POST", "/rounds", account.Manage, s.reviews.BeginRound, false},
		{"POST", "/rounds/:round/link", account.Manage, s.reviews.LinkInRound, false},
		{"POST", "/rounds/:round/remind", account.Manage, s.reviews.RemindRound, false},
		{"POST", "/rounds/:round/heading", account.Manage, s.reviews.HeadRound, false},
		{"POST", "/rounds/:round/end", account.Manage, s.reviews.EndRound, false},
		{"POST", "/rounds/:round/again", account.Manage, s.reviews.AskAgain, false},
		{"POST", "/life", account.Manage, s.reviews.SetLife, false},
		{"POST", "/restore", account.Manage, s.shelf.Restore, false},
		{"GET", "/people", account.Manage, s.sharing.Shares, false},
		{"POST", "/people", account.Manage, s.sharing.Share, false},
		{"GET", "/links", account.Manage, s.sharing.Links, false},
		{"POST", "/links", account.Manage, s.sharing.CreateLink, false},
		{"POST", "/links/:link/withdraw", account.Manage, s.sharing.WithdrawLink, false},
	}
}

// houseRoutes are the pages of the organisation.
func (s *Server) houseRoutes() []houseRoute {
	return []houseRoute{
		{"GET", "/", somebody, s.shelf.Home},
		{"GET", "/bin", somebody, s.shelf.Bin},
		{"GET", "/symbols", somebody, s.desk.Symbols},
		{"GET", "/begin", somebody, s.shelf.Begin},
		{"GET", "/begin/:start.svg", somebody, s.shelf.StartPicture},
		{"POST", "/begin/:start/remove", somebody, s.shelf.RemoveStart},
		{"POST", "/maps", somebody, s.shelf.Create},
		{"POST", "/maps/open", somebody, s.shelf.OpenFile},
		{"POST", "/uploads", somebody, s.shelf.BeginUpload},
		{"POST", "/uploads/:upload", somebody, s.shelf.AddUpload},
		{"POST", "/maps/export", somebody, s.shelf.ExportMaps},
		{"POST", "/maps/move", somebody, s.shelf.MoveMaps},
		{"POST", "/maps/delete", somebody, s.shelf.DeleteMaps},
		{"POST", "/maps/pin", somebody, s.shelf.PinMaps},
		{"POST", "/folders", somebody, s.shelf.AddFolder},

		{"GET", "/help", anybody, s.Help},
		{"GET", "/help/:picture.png", anybody, s.HelpPicture},
		{"GET", "/sign-in", anybody, s.accounts.SignInPage},
		{"POST", "/sign-in", anybody, s.accounts.SignInBy},
		{"POST", "/sign-in/code", anybody, s.accounts.SignInSecond},
		{"POST", "/sign-in/demo", anybody, s.accounts.SignInDemo},
		{"GET", "/directory", anybody, s.accounts.ToDirectory},
		{"GET", "/directory/back", anybody, s.accounts.FromDirectory},
		{"GET", "/first", anybody, s.accounts.FirstPage},
		{"POST", "/first", anybody, s.accounts.MakeFirst},
		{"GET", "/forgot", anybody, s.accounts.ForgotPage},
		{"POST", "/forgot", anybody, s.accounts.Forgot},
		{"GET", "/reset/:ticket", anybody, s.accounts.TicketPage(store.NewWord)},
		{"POST", "/reset/:ticket", anybody, s.accounts.UseTicket(store.NewWord)},
		{"GET", "/invited/:ticket", anybody, s.accounts.TicketPage(store.Invitation)},
		{"POST", "/invited/:ticket", anybody, s.accounts.UseTicket(store.Invitation)},
		{"POST", "/sign-out", somebody, s.accounts.SignOut},

		{"GET", "/me", somebody, s.accounts.MePage},
		{"POST", "/me/name", somebody, s.accounts.ChangeName},
		{"POST", "/me/mail", somebody, s.accounts.ChangeMail},
		{"POST", "/me/letters", somebody, s.accounts.ChangeLetters},
		{"POST", "/me/password", somebody, s.accounts.ChangePassword},
		{"POST", "/me/factor", somebody, s.accounts.BeginFactor},
		{"POST", "/me/factor/keep", somebody, s.accounts.KeepFactor},
		{"POST", "/me/factor/remove", somebody, s.accounts.DropFactor},
		{"POST", "/me/sign-out", somebody, s.accounts.SignOutEverywhere},

		{"GET", "/people", houseOwner, s.accounts.PeoplePage},
		{"POST", "/people/invite", houseOwner, s.accounts.Invite},
		{"POST", "/people/:person/role", houseOwner, s.accounts.ChangeRole},
		{"POST", "/people/:person/reset", houseOwner, s.accounts.ResetPerson},
		{"POST", "/people/:person/factor", houseOwner, s.accounts.TakeFactor},
		{"POST", "/people/:person/switch", houseOwner, s.accounts.SwitchPerson},
		{"POST", "/people/:person/hand-over", houseOwner, s.accounts.HandOver},
		{"POST", "/people/reviews", houseOwner, s.accounts.SetHabits},
		{"POST", "/people/groups", houseOwner, s.accounts.SetGroup},
		{"POST", "/people/groups/:group/remove", houseOwner, s.accounts.RemoveGroup},
		{"GET", "/audit", houseOwner, s.accounts.Audit},
		{"GET", "/audit.csv", houseOwner, s.accounts.AuditFile},
		{"GET", "/outbox", houseOwner, s.accounts.OutboxPage},
	}
}

// Editor returns the application for the people in the organisation, and for those who come by links.
func (s *Server) Editor() *fiber.App {
	app := s.App(s.Local || s.As != "")
	s.linked(app)
	app.Use(s.Identify, s.OwnPage)
	s.addHouse(app, s.houseRoutes())
	s.addMaps(app, "/maps/:id", s.Person, append(s.mapRoutes(), s.ownRoutes()...))
	s.folderRoutes(app)
	return app
}

// Links returns the application for those who come by links alone. It knows no other route than
// those behind a link, and the files their pages use.
func (s *Server) Links() *fiber.App {
	app := s.App(s.LinksLocal)
	app.Get("/help", s.Help)
	app.Get("/help/:picture.png", s.HelpPicture)
	s.linked(app)
	return app
}

// linked adds what is behind links to an application.
func (s *Server) linked(app *fiber.App) {
	for _, form := range site.LinkForms {
		prefix := form.Prefix + "/:token"
		app.Use(form.Prefix, func(c fiber.Ctx) error {
			c.Set("X-Robots-Tag", "noindex, nofollow")
			c.Set("Cache-Control", "private, no-store")
			return c.Next()
		})
		app.Post(prefix+"/enter", s.Enter)
		s.addMaps(app, prefix, s.Visitor, append(s.mapRoutes(), s.linkRoutes()...))
	}
}

// New prepares the server. It fails when the program was built without its
// browser core.
func New(h *house.House, settings site.Settings) (*Server, error) {
	core, err := fs.Sub(files, "core")
	if err != nil {
		return nil, err
	}
	return withCore(h, core, settings)
}

// withCore returns a server that hands out a browser core.
func withCore(h *house.House, core fs.FS, settings site.Settings) (*Server, error) {
	pages, err := site.New(h, files, core, settings)
	if err != nil {
		return nil, err
	}
	all := rounds.New(h, pages.Post, pages.Address, pages.LinksBegin())
	s := &Server{Site: pages, accounts: accounts.New(pages), shelf: shelf.New(pages, all), sharing: sharing.New(pages)}
	s.reviews = reviews.New(pages, s.shelf, all)
	s.desk = desk.New(pages, s.reviews)
	return s, nil
}

// Server is the application: all its pages, each kind of them with one type.
type Server struct {
	*site.Site
	accounts *accounts.Accounts
	shelf    *shelf.Shelf
	sharing  *sharing.Sharing
	reviews  *reviews.Reviews
	desk     *desk.Desk
}

// route is a page or file of a map: its address below that of the map, and what it takes to ask
// for it. Saves says that it hands out files, which a link may not allow.
type route struct {
	method, path string
	needs        account.Right
	answer       func(fiber.Ctx) error
	saves        bool
}

// addMaps adds the addresses of a map to an application, each behind its right. Who finds out who
// asks, and what they may do; it is the only place that turns an address into a map.
func (s *Server) addMaps(app *fiber.App, prefix string, who func(c fiber.Ctx) (*site.Visit, error), list []route) {
	for _, r := range list {
		app.Add([]string{r.method}, prefix+r.path, func(c fiber.Ctx) error {
			v, err := who(c)
			if v == nil || err != nil {
				return err
			}
			if v.Right < r.needs {
				return fiber.NewError(fiber.StatusForbidden,
					"You may "+account.Rights[v.Right].Verb+" this map, and this takes the right to "+
						account.Rights[r.needs].Verb+" it. Ask its owner.")
			}
			if r.saves && v.Link != "" && !v.Chosen.Download && v.Right < account.Edit {
				return fiber.NewError(fiber.StatusForbidden,
					"This link is for reading; its owner does not let readers save the map.")
			}
			v.Keep(c)
			return r.answer(c)
		})
	}
}

// standing is what somebody has to be to ask for a page of the organisation.
type standing uint8

const (
	anybody    standing = iota
	somebody            // signed in
	houseOwner          // an administrator
)

// houseRoute is a page of the organisation that belongs to no map.
type houseRoute struct {
	method, path string
	needs        standing
	answer       func(fiber.Ctx) error
}

// addHouse adds the pages of the organisation to an application, each behind what it takes to ask for it.
func (s *Server) addHouse(app *fiber.App, list []houseRoute) {
	for _, r := range list {
		app.Add([]string{r.method}, r.path, func(c fiber.Ctx) error {
			m := site.WhoAsks(c)
			switch {
			case r.needs >= somebody && m == nil:
				return s.AskWho(c)
			case r.needs == houseOwner && m.Role != account.Owner:
				return fiber.NewError(fiber.StatusForbidden, "Only an administrator may do this.")
			}
			return r.answer(c)
		})
	}
}

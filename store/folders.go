package store

import (
	"database/sql"
	"errors"
	"fmt"
	"sync"

	"plaintracer/account"
)

// Folders are the folders of the organisation, and what is granted in them.
type Folders struct {
	*database
	// rules are those that were read last; nil after a change, which rulesLock guards. moving keeps folders from being
	// moved at once.
	rules             *account.Rules
	rulesLock, moving sync.Mutex
}

// Rules are the folders and grants of the organisation as they are. They are read once, and again after a change.
func (s *Folders) Rules() (*account.Rules, error) {
	s.rulesLock.Lock()
	defer s.rulesLock.Unlock()
	if s.rules != nil {
		return s.rules, nil
	}
	folders, err := gather(s.db, func(scan scanner) (f account.Folder, err error) {
		err = scan(&f.ID, &f.Parent, &f.Owner, &f.Name)
		return f, err
	}, "SELECT id, coalesce(parent, ''), owner, name FROM folders")
	if err != nil {
		return nil, err
	}
	grants, err := gather(s.db, func(scan scanner) (g account.Grant, err error) {
		var right string
		err = scan(&g.Folder, &g.Map, &g.Person, &right)
		g.Right, _ = account.RightNamed(right)
		return g, err
	}, `SELECT coalesce(folder, ''), coalesce(map, ''), coalesce(person, ''), "right" FROM grants`)
	if err != nil {
		return nil, err
	}
	s.rules = account.NewRules(folders, grants)
	return s.rules, nil
}

func (s *Folders) rulesChanged() {
	s.rulesLock.Lock()
	defer s.rulesLock.Unlock()
	s.rules = nil
}

func optional(id string) sql.NullString { return sql.NullString{String: id, Valid: id != ""} }

// named turns the fault of two folders of one name in one place into ErrTaken.
func named(err error) error {
	if err != nil && code(err) == 19 { // SQLITE_CONSTRAINT
		return ErrTaken
	}
	return err
}

// Add makes a folder in another one, or at the top of its owner's where parent is empty.
func (s *Folders) Add(name, parent, owner string) (string, error) {
	rules, err := s.Rules()
	if err != nil {
		return "", err
	}
	if parent != "" && len(rules.Way(parent)) >= account.MaxDepth {
		return "", fmt.Errorf("folders stand at most %d deep in one another", account.MaxDepth)
	}
	defer s.rulesChanged()
	id := token(10)
	_, err = s.db.Exec("INSERT INTO folders (id, parent, owner, name, folded, created) VALUES (?, ?, ?, ?, ?, ?)", id,
		optional(parent), owner, name, account.Folded(name), now())
	return id, named(err)
}

// Rename gives a folder another name.
func (s *Folders) Rename(id, name string) error {
	defer s.rulesChanged()
	return named(found(s.db.Exec("UPDATE folders SET name = ?, folded = ? WHERE id = ?", name, account.Folded(name),
		id)))
}

// Move puts a folder into another one, or to the top of its owner's where parent is empty.
func (s *Folders) Move(id, parent string) error {
	s.moving.Lock()
	defer s.moving.Unlock()
	rules, err := s.Rules()
	if err != nil {
		return err
	}
	switch {
	case rules.Folder(id).ID == "" || parent != "" && rules.Folder(parent).ID == "":
		return ErrNotFound
	case rules.Within(parent, id):
		return errors.New("a folder cannot be moved into itself")
	case len(rules.Way(parent))+rules.Depth(id) > account.MaxDepth:
		return fmt.Errorf("folders stand at most %d deep in one another", account.MaxDepth)
	}
	defer s.rulesChanged()
	return named(found(s.db.Exec("UPDATE folders SET parent = ? WHERE id = ?", optional(parent), id)))
}

// Remove removes a folder in which no other stands. The maps in it, also those in the bin, stand at the top then.
func (s *Folders) Remove(id string) error {
	defer s.rulesChanged()
	err := found(s.db.Exec(`DELETE FROM folders WHERE id = ? AND NOT EXISTS (SELECT 1 FROM folders f WHERE
			f.parent = ?)`, id, id))
	return err
}

// Move puts a map into a folder, or to the top of its owner's where folder is empty.
func (s *Maps) Move(id, folder string) error {
	return found(s.db.Exec("UPDATE maps SET folder = ? WHERE id = ?", optional(folder), id))
}

// Grant gives a right to a person, or to everyone in the organisation where person is empty.
func (s *Folders) Grant(g account.Grant) error {
	defer s.rulesChanged()
	return s.transact(func(tx *sql.Tx) error {
		if err := revoke(tx, g.Place, g.Person); err != nil {
			return err
		}
		_, err := tx.Exec(`INSERT INTO grants (folder, map, person, "right") VALUES (?, ?, ?, ?)`,
			optional(g.Folder), optional(g.Map), optional(g.Person), g.Right.String())
		return err
	})
}

// Revoke takes back what was granted at a place, so that what comes from above counts again.
func (s *Folders) Revoke(at account.Place, person string) error {
	defer s.rulesChanged()
	return s.transact(func(tx *sql.Tx) error { return revoke(tx, at, person) })
}

func revoke(tx *sql.Tx, at account.Place, person string) error {
	_, err := tx.Exec(`DELETE FROM grants WHERE coalesce(folder, '') = ? AND coalesce(map, '') = ? AND
			coalesce(person, '') = ?`, at.Folder, at.Map, person)
	return err
}

// Where returns what the rules have to know of a map, and whether it is in the bin.
func (s *Maps) Where(id string) (m account.Map, binned bool, err error) {
	err = s.db.QueryRow(`SELECT id, coalesce(owner, ''), coalesce(folder, ''), binned IS NOT NULL FROM maps
			WHERE id = ?`, id).Scan(&m.ID, &m.Owner, &m.Folder, &binned)
	if errors.Is(err, sql.ErrNoRows) {
		err = ErrNotFound
	}
	return m, binned, err
}

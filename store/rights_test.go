package store_test

import (
	"path/filepath"
	"strings"
	"testing"

	"plaintracer/account"
	"plaintracer/store"
)

// Rights that an earlier program kept as numbers are the same after it; a number that was none, or a name that is none,
// lets nobody in.
func TestRightsOfAnEarlierProgramStay(t *testing.T) {
	folder := filepath.Join(t.TempDir(), "data")
	s := open(t, folder)
	person := func(email string) string {
		id, err := s.People.Add(store.NewPerson{Name: "Jo", Email: email, Role: account.Member})
		if err != nil {
			t.Fatal(err)
		}
		return id
	}
	owner, other := person("ida@town.example"), person("jo@town.example")
	had := map[string]account.Right{} // by folders
	numbers := map[string]int{}
	earlier := map[int]account.Right{0: account.None, 1: account.Read, 2: account.Remark, 3: account.Edit,
		4: account.Manage, 9: account.None}
	for number, right := range earlier {
		id, err := s.Folders.Add("Folder for "+right.String()+string(rune('0'+number)), "", owner)
		if err != nil {
			t.Fatal(err)
		}
		had[id], numbers[id] = right, number
	}
	s.Close()
	db := database(t, folder)
	run := func(statement string, values ...any) {
		t.Helper()
		if _, err := db.Exec(statement, values...); err != nil {
			t.Fatal(err)
		}
	}
	run("DROP TABLE grants")
	run(`CREATE TABLE grants (folder TEXT REFERENCES folders(id) ON DELETE CASCADE, map TEXT REFERENCES maps(id) ON DELETE CASCADE,
		person TEXT REFERENCES people(id) ON DELETE CASCADE, "right" INTEGER NOT NULL) STRICT`)
	for id, number := range numbers {
		run(`INSERT INTO grants (folder, person, "right") VALUES (?, ?, ?)`, id, other, number)
	}
	for _, later := range []string{"kept", "file_parts", "files", "round_log", "lives", "group_people", "groups"} {
		run("DROP TABLE " + later)
	}
	for table, columns := range map[string]string{"rounds": "needs remind final signed since taken_in talk",
		"verdicts": "turn told looked signature email asked", "outbox": "picture", "shares": "tells_changes"} {
		for _, later := range strings.Fields(columns) {
			run("ALTER TABLE " + table + " DROP COLUMN " + later)
		}
	}
	run("PRAGMA user_version = 9")

	check := func() {
		t.Helper()
		rules, err := s.Folders.Rules()
		if err != nil {
			t.Fatal(err)
		}
		for id, right := range had {
			if now := rules.OnFolder(other, id); now != right {
				t.Errorf("the right kept as %d is now to %s, it was to %s", numbers[id], now, right)
			}
		}
	}
	s = open(t, folder)
	check()
	for id, right := range had { // and given again they are as before
		if err := s.Folders.Grant(account.Grant{Place: account.Place{Folder: id}, Person: other,
			Right: right}); err != nil {
			t.Fatal(err)
		}
	}
	s.Close()
	run(`UPDATE grants SET "right" = 'own' WHERE "right" = 'manage'`)
	for id, right := range had {
		if right == account.Manage {
			had[id] = account.None
		}
	}
	s = open(t, folder)
	check()
}

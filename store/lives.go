package store

import (
	"database/sql"
	"encoding/json"
	"errors"
	"strings"
	"time"

	"plaintracer/account"
	"plaintracer/review"
)

// Life is that of a map whose versions are agreed.
type Life struct {
	// Until is when what was agreed is no longer in force, Due when it is to be reviewed again; zero for not said.
	Until, Due time.Time
	// Owner is who owns the process: the id of a person, or "name:" and what they are called; empty for nobody.
	Owner string
	// Withdrawn is when it was withdrawn, with why; zero where it is in force.
	Withdrawn time.Time
	Why       string
}

// OwnerName is what the owner of the process is called.
func (l *Life) OwnerName(names map[string]string) string {
	if name, ok := strings.CutPrefix(l.Owner, "name:"); ok {
		return name
	}
	return names[l.Owner]
}

// Lives are those of the maps.
type Lives struct{ *database }

const lifeColumns = "until, due, owner, withdrawn, why"

func scanLife(scan scanner, more ...any) (l Life, err error) {
	var until, due, withdrawn sql.NullInt64
	err = scan(append(more, &until, &due, &l.Owner, &withdrawn, &l.Why)...)
	l.Until, l.Due, l.Withdrawn = timeOf(until), timeOf(due), timeOf(withdrawn)
	return l, err
}

// Get is the life of a map; one of which nothing is said where nothing was.
func (s *Lives) Get(id string) (Life, error) {
	l, err := scanLife(s.db.QueryRow("SELECT "+lifeColumns+" FROM lives WHERE map = ?", id).Scan)
	if errors.Is(err, sql.ErrNoRows) {
		return Life{}, nil
	}
	return l, err
}

// Set keeps the life of a map.
func (s *Lives) Set(id string, l Life) error {
	_, err := s.db.Exec(`INSERT INTO lives (map, until, due, owner, withdrawn, why) VALUES (?1, ?2, ?3, ?4, ?5, ?6)
			ON CONFLICT DO UPDATE SET until = ?2, due = ?3, owner = ?4, withdrawn = ?5, why = ?6`,
		id, moment(l.Until), moment(l.Due), l.Owner, moment(l.Withdrawn), l.Why)
	return err
}

// All are those of all maps, by their ids.
func (s *Lives) All() (map[string]Life, error) {
	out := map[string]Life{}
	_, err := gather(s.db, func(scan scanner) (struct{}, error) {
		var id string
		l, err := scanLife(scan, &id)
		out[id] = l
		return struct{}{}, err
	}, "SELECT map, "+lifeColumns+" FROM lives")
	return out, err
}

// habitsName is under which name the settings keep what is proposed for rounds.
const habitsName = "review"

// Habits are what is proposed for the rounds of the organisation, and allowed in them.
func (s *Rounds) Habits() (h review.Habits, err error) {
	var raw []byte
	err = s.db.QueryRow("SELECT value FROM settings WHERE name = ?", habitsName).Scan(&raw)
	if errors.Is(err, sql.ErrNoRows) {
		return h, nil
	}
	if err == nil {
		err = json.Unmarshal(raw, &h)
	}
	return h, err
}

// SetHabits changes what is proposed for the rounds of the organisation.
func (s *Rounds) SetHabits(h review.Habits) error {
	raw, err := json.Marshal(h)
	if err != nil {
		return err
	}
	_, err = s.db.Exec("INSERT INTO settings (name, value) VALUES (?1, ?2) ON CONFLICT DO UPDATE SET value = ?2",
		habitsName, raw)
	return err
}

// Group are people in the organisation who are asked together.
type Group struct {
	ID, Name string
	// People are their ids.
	People []string
}

// Groups are those of the organisation.
type Groups struct{ *database }

// mostGroups is how many there are at most.
const mostGroups = 500

// List are all groups, by their names, with their people.
func (s *Groups) List() ([]Group, error) {
	list, err := gather(s.db, func(scan scanner) (g Group, err error) {
		err = scan(&g.ID, &g.Name)
		return g, err
	}, "SELECT id, name FROM groups ORDER BY folded")
	if err != nil {
		return nil, err
	}
	place := map[string]int{}
	for i := range list {
		place[list[i].ID] = i
	}
	_, err = gather(s.db, func(scan scanner) (struct{}, error) {
		var group, person string
		err := scan(&group, &person)
		if i, ok := place[group]; ok && err == nil {
			list[i].People = append(list[i].People, person)
		}
		return struct{}{}, err
	},
		`SELECT "group", person FROM group_people g JOIN people p ON p.id = g.person WHERE p.off IS NULL ORDER BY p.name`)
	return list, err
}

// Set keeps a group with its people: a new one where it has no id. It returns ErrTaken where another has its name.
func (s *Groups) Set(g Group) error {
	return s.transact(func(tx *sql.Tx) error {
		var taken bool
		var all int
		if err := tx.QueryRow("SELECT EXISTS (SELECT 1 FROM groups WHERE folded = ? AND id <> ?), (SELECT count(*) FROM groups)",
			account.Folded(g.Name), g.ID).Scan(&taken, &all); err != nil {
			return err
		}
		switch {
		case taken:
			return ErrTaken
		case g.ID == "" && all >= mostGroups:
			return ErrFull
		case g.ID == "":
			g.ID = token(10)
			if _, err := tx.Exec("INSERT INTO groups (id, name, folded) VALUES (?, ?, ?)", g.ID, g.Name,
				account.Folded(g.Name)); err != nil {
				return err
			}
		default:
			if err := found(tx.Exec("UPDATE groups SET name = ?, folded = ? WHERE id = ?", g.Name,
				account.Folded(g.Name),
				g.ID)); err != nil {
				return err
			}
		}
		if _, err := tx.Exec(`DELETE FROM group_people WHERE "group" = ?`, g.ID); err != nil {
			return err
		}
		for _, person := range g.People {
			if _, err := tx.Exec(`INSERT INTO group_people ("group", person) SELECT ?, id FROM people WHERE id = ?
					ON CONFLICT DO NOTHING`, g.ID, person); err != nil {
				return err
			}
		}
		return nil
	})
}

// Remove removes a group.
func (s *Groups) Remove(id string) error {
	return found(s.db.Exec("DELETE FROM groups WHERE id = ?", id))
}

// ToAnswer are the threads of maps that wait for a person: open ones on a map of theirs where others spoke last, but
// for what is said in the conversation, and open ones in which somebody speaks to them by name and they have not
// answered since.
type ToAnswer struct {
	Map string
	// Remarks, Proposals and Spoken count the threads on maps of theirs, the proposals of these, and those in which
	// they are spoken to; Latest is the thread of the latest.
	Remarks, Proposals, Spoken int
	Latest                     string
}

// ToAnswer are the threads that wait for a person with a name, by map, whatever they may see of it.
func (s *Remarks) ToAnswer(person, name string) (list []ToAnswer, err error) {
	escaped := strings.NewReplacer(`\`, `\\`, "%", `\%`, "_", `\_`).Replace(name)
	return gather(s.db, func(scan scanner) (t ToAnswer, err error) {
		var latest int64
		err = scan(&t.Map, &t.Remarks, &t.Proposals, &t.Spoken, &latest, &t.Latest)
		return t, err
	}, `WITH own AS (SELECT r.id, r.map, r.proposal <> '' AND r.answered = '' AS proposed, m.owner = ?1 AND r.anchor <> '{}' AS mine,
			coalesce((SELECT a.author FROM remarks a WHERE a.thread = r.id AND a.deleted IS NULL ORDER BY a.at DESC LIMIT 1), r.author) AS last,
			coalesce((SELECT max(a.at) FROM remarks a WHERE a.thread = r.id AND a.deleted IS NULL), r.at) AS at,
			EXISTS (SELECT 1 FROM remarks a WHERE (a.id = r.id OR a.thread = r.id) AND a.deleted IS NULL AND a.author <> ?1
				AND a.text LIKE ?2 ESCAPE '\' AND NOT EXISTS (SELECT 1 FROM remarks b WHERE (b.id = r.id OR b.thread = r.id)
				AND b.author = ?1 AND b.at > a.at)) AS spoken
			FROM remarks r JOIN maps m ON m.id = r.map WHERE r.thread IS NULL AND r.settled IS NULL AND r.deleted IS NULL AND m.binned IS NULL)
		SELECT map, sum(mine AND last <> ?1 AND NOT proposed AND NOT spoken), sum(mine AND proposed), sum(spoken), max(at), id FROM own
		WHERE mine AND (last <> ?1 OR proposed) OR spoken GROUP BY map ORDER BY max(at) DESC`, person, "%@"+escaped+"%")
}

package account

import "slices"

// Place is a folder or a map, by its id; the other is empty.
type Place struct{ Folder, Map string }

// Folder is a place for maps. One without a parent stands at the top of its owner's.
type Folder struct{ ID, Parent, Owner, Name string }

// Grant is a right at a place: of a person, or of everyone in the organisation where Person is empty.
type Grant struct {
	Place
	Person string
	Right  Right
}

// Share is a right that counts at a place, and where it comes from.
type Share struct {
	Person string // empty for everyone in the organisation
	Right  Right
	// From is the place it was granted at. Owned says that it comes of owning that place.
	From  Place
	Owned bool
}

// Rules are all folders and grants of a house, arranged to be asked. They do not change.
type Rules struct {
	folders  map[string]Folder
	children map[string][]string
	grants   map[Place][]Grant
}

// MaxDepth is how deep folders may stand in one another.
const MaxDepth = 12

// NewRules arranges folders and grants.
func NewRules(folders []Folder, grants []Grant) *Rules {
	r := &Rules{map[string]Folder{}, map[string][]string{}, map[Place][]Grant{}}
	for _, f := range folders {
		r.folders[f.ID] = f
		r.children[f.Parent] = append(r.children[f.Parent], f.ID)
	}
	for _, list := range r.children {
		slices.SortFunc(list, func(a, b string) int {
			if x, y := Folded(r.folders[a].Name), Folded(r.folders[b].Name); x != y {
				if x < y {
					return -1
				}
				return 1
			}
			if a < b {
				return -1
			}
			return 1
		})
	}
	for _, g := range grants {
		r.grants[g.Place] = append(r.grants[g.Place], g)
	}
	return r
}

// Folder returns a folder by its id; one that is not there has no id.
func (r *Rules) Folder(id string) Folder { return r.folders[id] }

// Children are the folders in a folder, or those without a parent where the id is empty, by their names.
func (r *Rules) Children(id string) []string { return r.children[id] }

// Way is the folders that lead to a folder from the top, itself the last.
func (r *Rules) Way(id string) []Folder {
	var way []Folder
	for f, ok := r.folders[id]; ok && len(way) <= MaxDepth; f, ok = r.folders[f.Parent] {
		way = append(way, f)
	}
	slices.Reverse(way)
	return way
}

// Within reports whether a folder is another one or stands somewhere in it.
func (r *Rules) Within(id, other string) bool {
	return slices.ContainsFunc(r.Way(id), func(f Folder) bool { return f.ID == other })
}

// Depth is how many levels of folders stand in a folder, itself counted.
func (r *Rules) Depth(id string) int {
	deep := 0
	for _, child := range r.children[id] {
		deep = max(deep, r.Depth(child))
	}
	return deep + 1
}

// Map is what the rules have to know of a map.
type Map struct{ ID, Owner, Folder string }

// OnMap is the right a person has to a map; OnFolder that to a folder.
func (r *Rules) OnMap(person string, m Map) Right { return r.right(person, r.SharesOfMap(m)) }

// OnFolder is the right a person has to a folder.
func (r *Rules) OnFolder(person, folder string) Right {
	if r.folders[folder].ID == "" {
		return None
	}
	return r.right(person, r.SharesOfFolder(folder))
}

// right is the best of what is granted to a person and to everyone. A person who is kept out by name stays out.
func (r *Rules) right(person string, shares []Share) Right {
	if person == "" {
		return None
	}
	best := None
	for _, s := range shares {
		switch {
		case s.Person == person && s.Right == None:
			return None
		case s.Person == person || s.Person == "":
			best = max(best, s.Right)
		}
	}
	return best
}

// SharesOfMap are the rights that count for a map, one for each person and one for everyone: those granted nearest to
// it. Whoever owns it, or a folder around it, manages it whatever is granted.
func (r *Rules) SharesOfMap(m Map) []Share {
	var list shares
	list.level(Place{Map: m.ID}, m.Owner, r.grants[Place{Map: m.ID}])
	r.above(&list, m.Folder)
	return list
}

// SharesOfFolder are the rights that count for a folder.
func (r *Rules) SharesOfFolder(id string) []Share {
	var list shares
	r.above(&list, id)
	return list
}

func (r *Rules) above(list *shares, folder string) {
	way := r.Way(folder)
	for i := len(way) - 1; i >= 0; i-- {
		at := Place{Folder: way[i].ID}
		list.level(at, way[i].Owner, r.grants[at])
	}
}

// shares collects rights from the nearest place up.
type shares []Share

func (list *shares) level(at Place, owner string, grants []Grant) {
	if owner != "" {
		i := slices.IndexFunc(*list, func(s Share) bool { return s.Person == owner })
		switch {
		case i < 0:
			*list = append(*list, Share{owner, Manage, at, true})
		case !(*list)[i].Owned:
			(*list)[i] = Share{owner, Manage, at, true}
		}
	}
	for _, g := range grants {
		if !slices.ContainsFunc(*list, func(s Share) bool { return s.Person == g.Person }) {
			*list = append(*list, Share{g.Person, g.Right, at, false})
		}
	}
}

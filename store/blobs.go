package store

import (
	"bytes"
	"crypto/sha256"
	"database/sql"
	"encoding/base64"
	"encoding/hex"
	"errors"
	"fmt"
)

// Pictures and fonts are kept once, by the hash of their content, however many snapshots and
// edits they stand in. In the JSON that is stored, "data":"@HASH" stands for their content:
// the mark is not of the base64 alphabet, and quotes within texts are escaped, so that it can
// be mistaken for nothing else.
const (
	dataKey  = `"data":"`
	blobMark = '@'
	// leastBlob is the length from which content is kept apart, in base64.
	leastBlob = 512
)

// pack takes the large contents out of a JSON text.
func pack(raw []byte) (packed []byte, contents map[string][]byte) {
	for at := 0; ; {
		i := bytes.Index(raw[at:], []byte(dataKey))
		if i < 0 {
			if contents == nil {
				return raw, nil
			}
			return append(packed, raw[at:]...), contents
		}
		from := at + i + len(dataKey)
		n := bytes.IndexByte(raw[from:], '"')
		if n < 0 {
			n = len(raw) - from
		}
		text := raw[from : from+n]
		packed = append(packed, raw[at:from]...)
		at = from + n
		content, err := base64.StdEncoding.DecodeString(string(text))
		if n < leastBlob || err != nil || base64.StdEncoding.EncodeToString(content) != string(text) {
			packed = append(packed, text...)
			continue
		}
		sum := sha256.Sum256(content)
		hash := hex.EncodeToString(sum[:])
		if contents == nil {
			contents = map[string][]byte{}
		}
		contents[hash] = content
		packed = append(append(packed, blobMark), hash...)
	}
}

// unpack puts the contents back that pack took out.
func unpack(packed []byte, content func(hash string) ([]byte, error)) ([]byte, error) {
	mark := []byte(dataKey + string(blobMark))
	var raw []byte
	for at := 0; ; {
		i := bytes.Index(packed[at:], mark)
		if i < 0 {
			if raw == nil {
				return packed, nil
			}
			return append(raw, packed[at:]...), nil
		}
		from := at + i + len(mark)
		if from+2*sha256.Size > len(packed) {
			return nil, fmt.Errorf("the content at byte %d is cut short", from)
		}
		data, err := content(string(packed[from : from+2*sha256.Size]))
		if err != nil {
			return nil, err
		}
		raw = append(raw, packed[at:from-1]...)
		raw = base64.StdEncoding.AppendEncode(raw, data)
		at = from + 2*sha256.Size
	}
}

// querier is a database or a transaction.
type querier interface {
	Query(query string, args ...any) (*sql.Rows, error)
	QueryRow(query string, args ...any) *sql.Row
}

// content reads a content by its hash.
func content(q querier) func(hash string) ([]byte, error) {
	return func(hash string) ([]byte, error) {
		var data []byte
		if err := q.QueryRow("SELECT data FROM blobs WHERE hash = ?", hash).Scan(&data); err != nil {
			return nil, fmt.Errorf("the picture or font %.12s: %w", hash, err)
		}
		return data, nil
	}
}

// keep stores contents that are not there yet.
func keep(tx *sql.Tx, contents map[string][]byte) error {
	for hash, data := range contents {
		if _, err := tx.Exec("INSERT INTO blobs (hash, data) VALUES (?, ?) ON CONFLICT DO NOTHING", hash,
			data); err != nil {
			return err
		}
	}
	return nil
}

func addSnapshot(tx *sql.Tx, id string, revision int, doc []byte) error {
	packed, contents := pack(doc)
	if err := keep(tx, contents); err != nil {
		return err
	}
	_, err := tx.Exec("INSERT INTO snapshots (map, revision, format, document) VALUES (?, ?, ?, ?)", id, revision,
		documentFormat, packed)
	return err
}

// snapshots returns the revisions of which a map has a snapshot, the latest first. With an error
// come those read before it.
func snapshots(q querier, id string) (list []int, err error) {
	rows, err := q.Query("SELECT revision FROM snapshots WHERE map = ? ORDER BY revision DESC", id)
	if err != nil {
		return nil, err
	}
	for rows.Next() {
		var r int
		if err = rows.Scan(&r); err != nil {
			break
		}
		list = append(list, r)
	}
	return list, errors.Join(err, rows.Err(), rows.Close())
}

// prune removes snapshots that are not needed: the first and the two latest stay, and of the
// others the fewer the older they are, each about twice as far back as the one after it. The
// log stays whole, so that every state a map has had can be made again, from a snapshot not
// much further back than the state itself.
func prune(tx *sql.Tx, id string) error {
	list, err := snapshots(tx, id)
	if err != nil {
		return err
	}
	for _, r := range superfluous(list) {
		if _, err := tx.Exec("DELETE FROM snapshots WHERE map = ? AND revision = ?", id, r); err != nil {
			return err
		}
	}
	return nil
}

// superfluous returns those of the revisions, the latest first, whose snapshots go: without
// them the next older one is still no more than twice as far back as the one kept before it.
func superfluous(list []int) []int {
	var out []int
	kept := 1
	for i := 2; i < len(list)-1; i++ {
		if list[0]-list[i+1] <= 2*(list[0]-list[kept]) {
			out = append(out, list[i])
		} else {
			kept = i
		}
	}
	return out
}

package store

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"log"
	"time"
)

// pool is an open database: one connection that writes, and several that read beside it, each from the latest commit
// (SQLite, write-ahead log). What is read in the course of a change goes through its transaction.
type pool struct{ write, read *sql.DB }

// carrying is set on the connection that carries what the log holds over into the database (SQLite, checkpoints). It
// does so beside the one that writes, which would wait for the disk otherwise in the middle of an edit.
const carrying = "_pragma=synchronous(FULL)&_pragma=busy_timeout(0)"

const carryPause = time.Second

// carry carries over what has been committed, until the context ends.
func (s *database) carry(ctx context.Context, path string) {
	db, err := sql.Open("sqlite", address(path, carrying))
	if err != nil {
		log.Printf("carrying the log over: %v", err)
		return
	}
	defer db.Close()
	db.SetMaxOpenConns(1)
	tick := time.NewTicker(carryPause)
	defer tick.Stop()
	var done int64
	for {
		select {
		case <-tick.C:
		case <-ctx.Done():
			return
		}
		if n := s.committed.Load(); n != done {
			done = n
			_, err := db.Exec("PRAGMA wal_checkpoint(PASSIVE)")
			if err == nil {
				// The little that was committed meanwhile in its turn between two edits, so that the log begins anew.
				_, err = s.db.write.Exec("PRAGMA wal_checkpoint(PASSIVE)")
			}
			if err != nil && ctx.Err() == nil {
				log.Printf("carrying the log over: %v", err)
			}
		}
	}
}

// readers is how many connections read at once.
const readers = 4

// openPool opens a database file by a query of the driver; the readers by another one, or with the writer where it is
// empty.
func openPool(path, writing, reading string) (*pool, error) {
	w, err := sql.Open("sqlite", address(path, writing))
	if err != nil {
		return nil, err
	}
	w.SetMaxOpenConns(1)
	p := &pool{w, w}
	if reading == "" {
		return p, nil
	}
	if p.read, err = sql.Open("sqlite", address(path, reading)); err != nil {
		return nil, errors.Join(err, w.Close())
	}
	p.read.SetMaxOpenConns(readers)
	p.read.SetMaxIdleConns(readers)
	return p, nil
}

// Query and QueryRow read, Exec and Begin write.
func (p *pool) Query(query string, args ...any) (*sql.Rows, error) {
	return p.read.Query(query, args...)
}
func (p *pool) QueryRow(query string, args ...any) *sql.Row { return p.read.QueryRow(query, args...) }
func (p *pool) Exec(query string, args ...any) (sql.Result, error) {
	return p.write.Exec(query, args...)
}
func (p *pool) Begin() (*sql.Tx, error) { return p.write.Begin() }

func (p *pool) Close() error {
	if p.read == p.write {
		return p.write.Close()
	}
	return errors.Join(p.read.Close(), p.write.Close())
}

// together commits what many ask for at once in one transaction: it costs the disk as much as one. Each is answered
// when it is on the disk.
type together struct {
	jobs chan *job
	// insert and note are what most of them do, prepared once.
	insert, note *sql.Stmt
}

// job is something to be committed.
type job struct {
	do   func(tx *sql.Tx) error
	done chan error
}

// mostTogether is how many are committed at once.
const mostTogether = 256

// statements of an edit.
const (
	insertEdit = `INSERT INTO edits (map, revision, window, seq, at, author, format, edit, changes)
			VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?)`
	noteEdit = "UPDATE maps SET revision = ?, changed = ?, title = ?, author = ? WHERE id = ?"
)

// in runs one of the statements of an edit in a transaction; a store that can only be read has none prepared, and says
// why it cannot.
func (t *together) in(tx *sql.Tx, prepared *sql.Stmt, statement string, args ...any) error {
	if prepared == nil {
		_, err := tx.Exec(statement, args...)
		return err
	}
	_, err := tx.Stmt(prepared).Exec(args...)
	return err
}

func (s *database) prepare() (err error) {
	s.together.jobs = make(chan *job, mostTogether)
	if s.together.insert, err = s.db.write.Prepare(insertEdit); err != nil {
		return err
	}
	s.together.note, err = s.db.write.Prepare(noteEdit)
	return err
}

// commitTogether commits what do does with others that come at the same time. What do does may be done more than once,
// the last time in the transaction that counts.
func (s *database) commitTogether(do func(tx *sql.Tx) error) error {
	if s.together.jobs == nil { // nobody commits: it says why
		return s.transact(do)
	}
	j := &job{do, make(chan error, 1)}
	select {
	case s.together.jobs <- j:
	case <-s.closed:
		return sql.ErrConnDone
	}
	select {
	case err := <-j.done:
		return err
	case <-s.ended:
		select { // it was answered at the last moment
		case err := <-j.done:
			return err
		default:
			return sql.ErrConnDone
		}
	}
}

// keepCommitting commits until the store is closed. While one commit is on its way to the disk, what comes waits for
// the next:
// alone, an edit waits for nobody.
func (s *database) keepCommitting() {
	defer close(s.ended)
	for {
		var list []*job
		select {
		case j := <-s.together.jobs:
			list = append(list, j)
		case <-s.closed:
			return
		}
		for len(list) < mostTogether {
			select {
			case j := <-s.together.jobs:
				list = append(list, j)
				continue
			default:
			}
			break
		}
		s.commitAll(list)
	}
}

func (s *database) commitAll(list []*job) {
	err := s.transact(func(tx *sql.Tx) error {
		for _, j := range list {
			if err := j.run(tx); err != nil {
				return err
			}
		}
		return nil
	})
	if err == nil || len(list) == 1 {
		for _, j := range list {
			j.done <- err
		}
		return
	}
	for _, j := range list { // one of them is at fault, or the disk: each has an answer of its own
		j.done <- s.transact(j.run)
	}
}

func (j *job) run(tx *sql.Tx) (err error) {
	defer func() {
		if fault := recover(); fault != nil {
			err = fmt.Errorf("a fault in what was to be committed: %v", fault)
		}
	}()
	return j.do(tx)
}

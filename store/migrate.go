package store

import (
	"context"
	"database/sql"
	"embed"
	"errors"
	"fmt"
	"io/fs"
	"os"
	"path/filepath"
	"strings"

	"github.com/pressly/goose/v3"
)

//go:embed migrations/*.sql
var embedded embed.FS

// migrations holds the numbered steps from an empty database to the newest schema.
var migrations = func() fs.FS {
	files, err := fs.Sub(embedded, "migrations")
	if err != nil {
		panic(err) // the path is a constant
	}
	return files
}()

// firstVersion is the first schema that this program reads. Earlier ones were never released.
const firstVersion = 12

// ErrOutdated is the cause of a *Trouble for a database from before the first release.
var ErrOutdated = errors.New("the database is older than the first release")

func outdated(version string) error {
	return &Trouble{fmt.Sprintf("The database was made by a version of Yard Bloom from before its first release (%s), "+
		"which this version does not read. Start with another folder after --data.", version), ErrOutdated}
}

// OldCopies is the pattern of the names of copies from before a migration.
const OldCopies = "yardbloom.schema-*.db"

// keepOldCopy copies a database with an older schema beside itself and returns the name of the copy.
func keepOldCopy(ctx context.Context, path string, schema int64) (kept string, err error) {
	kept = fmt.Sprintf("%s.schema-%d.db", strings.TrimSuffix(path, ".db"), schema)
	if _, err := os.Stat(kept); err == nil { // an earlier attempt was interrupted
		return kept, nil
	}
	_, err = backUp(ctx, path, kept)
	return kept, err
}

// OpenCurrent is Open for a command beside the server: a yard with an older schema is a *Trouble and is not migrated.
func OpenCurrent(ctx context.Context, dir string) (*Store, error) {
	path := filepath.Join(dir, FileName)
	if _, err := os.Stat(path); err == nil {
		if err := checkOwner(ctx, path); err != nil {
			return nil, explain(path, err)
		}
		db, err := sql.Open("sqlite", address(path)+"?_pragma=busy_timeout(3000)&mode=ro")
		if err != nil {
			return nil, err
		}
		var has int64
		err = errors.Join(db.QueryRowContext(ctx, `SELECT COALESCE(max(version_id), 0) FROM goose_db_version WHERE is_applied`).Scan(&has),
			db.Close())
		if err != nil {
			return nil, explain(path, err)
		}
		if wants := newestVersion(); has > 0 && has < wants {
			return nil, &Trouble{Sentence: fmt.Sprintf("The yard in %s was last served by an earlier version of Yard Bloom (schema %d; this version has "+
				"%d). Stop that server, start this version once (yardbloom serve), which keeps a copy and updates it, then repeat.", dir, has, wants)}
		}
	}
	return Open(ctx, dir)
}

// newestVersion returns the newest schema of this program.
func newestVersion() (newest int64) {
	names, _ := fs.Glob(migrations, "*.sql")
	for _, name := range names {
		if n, err := goose.NumericComponent(name); err == nil {
			newest = max(newest, n)
		}
	}
	return newest
}

// migrate brings a database to the newest schema in files. It calls before, if that is not nil, with the schema of a
// database that is about to change; an error ends it. A database that is older than firstVersion or newer than files is
// a *Trouble.
func migrate(ctx context.Context, db *sql.DB, files fs.FS, before func(schema int64) error) error {
	provider, err := goose.NewProvider(goose.DialectSQLite3, db, files)
	if err != nil {
		return err
	}
	has, wants, err := provider.GetVersions(ctx)
	if err != nil {
		return err
	}
	if has > 0 && has < firstVersion {
		return outdated(fmt.Sprintf("schema %d", has))
	}
	if has > wants {
		return &Trouble{Sentence: fmt.Sprintf("The database is from a newer version of Yard Bloom (schema %d; this version supports %d). Start it with "+
			"that version, or restore a backup from before the update.", has, wants)}
	}
	if has > 0 && has < wants && before != nil {
		if err := before(has); err != nil {
			return err
		}
	}
	_, err = provider.Up(ctx)
	return err
}

package store

import (
	"context"
	"database/sql"
	"embed"
	"errors"
	"fmt"
	"io/fs"

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

// migrate brings a database to the newest schema in files. A database that is older than
// firstVersion or newer than files is a *Trouble.
func migrate(ctx context.Context, db *sql.DB, files fs.FS) error {
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
	_, err = provider.Up(ctx)
	return err
}

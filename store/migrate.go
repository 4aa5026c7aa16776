package store

import (
	"context"
	"database/sql"
	"embed"
	"fmt"
	"io/fs"

	"github.com/pressly/goose/v3"
)

//go:embed migrations/*.sql
var migrations embed.FS

// migrator brings a database to the newest schema: the statements in migrations/,
// and in Go what changes documents.
func migrator(db *sql.DB) (*goose.Provider, error) {
	files, err := fs.Sub(migrations, "migrations")
	if err != nil {
		return nil, err
	}
	split := goose.NewGoMigration(3, &goose.GoFunc{RunTx: splitRecord}, nil)
	return goose.NewProvider(goose.DialectSQLite3, db, files, goose.WithGoMigrations(split))
}

func migrate(ctx context.Context, db *sql.DB) error {
	provider, err := migrator(db)
	if err != nil {
		return err
	}
	has, wants, err := provider.GetVersions(ctx)
	if err != nil {
		return err
	}
	if has > wants {
		return &Trouble{Sentence: fmt.Sprintf("The database is from a newer Yard Bloom (schema %d; this one knows %d). Start it with that version, or put back a backup from before the update.", has, wants)}
	}
	_, err = provider.Up(ctx)
	return err
}

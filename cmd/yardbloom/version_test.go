package main

import (
	"runtime/debug"
	"testing"
)

// Mutations caught: a commit cut too short to look up, local changes not mentioned, an empty version.
func TestVersionNamesTheCommit(t *testing.T) {
	built := debug.BuildInfo{GoVersion: "go1.26.8", Settings: []debug.BuildSetting{{Key: "GOOS", Value: "linux"},
		{Key: "GOARCH", Value: "arm64"}}}
	if got, want := describe(&built), "(devel), go1.26.8 linux/arm64"; got != want {
		t.Errorf("without a repository: %q, want %q", got, want)
	}
	built.Main.Version = "v1.2.0"
	built.Settings = append(built.Settings, debug.BuildSetting{Key: "vcs.revision", Value: "0123456789abcdef0123"},
		debug.BuildSetting{Key: "vcs.modified", Value: "true"})
	if got, want := describe(&built), "v1.2.0, commit 0123456789ab with changes, go1.26.8 linux/arm64"; got != want {
		t.Errorf("from a repository: %q, want %q", got, want)
	}
}

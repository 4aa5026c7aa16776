package main

import (
	"cmp"
	"fmt"
	"runtime/debug"
)

// version returns the version of the program, its commit if known, and the version of Go.
func version() string {
	info, ok := debug.ReadBuildInfo()
	if !ok {
		return "unknown"
	}
	return describe(info)
}

// describe returns the output of version for a build.
func describe(info *debug.BuildInfo) string {
	settings := map[string]string{}
	for _, s := range info.Settings {
		settings[s.Key] = s.Value
	}
	out := cmp.Or(info.Main.Version, "(devel)")
	if commit := settings["vcs.revision"]; commit != "" {
		out += ", commit " + commit[:min(12, len(commit))]
		if settings["vcs.modified"] == "true" {
			out += " with changes"
		}
	}
	return fmt.Sprintf("%s, %s %s/%s", out, info.GoVersion, settings["GOOS"], settings["GOARCH"])
}

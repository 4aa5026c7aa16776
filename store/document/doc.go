// Package document holds what the store writes as JSON into a column: structs of
// its own, with a version, apart from the core's types. A core type can change
// its names without changing what is on disk.
//
// Every document carries the version of the format that wrote it. testdata holds
// one golden file of each; a test reads it back and writes it again, byte for byte.
package document

// Version is the version of the documents that this package writes.
const Version = 3

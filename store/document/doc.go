// Package document defines the JSON documents that the store writes into columns. Its types are separate
// from those of the core, so that core types can be renamed without changing stored data.
//
// Every document has the version of its format. testdata holds one golden file of each kind; a test reads
// it and writes it again, byte for byte.
package document

// Version is the version of the documents that this package writes.
const Version = 3

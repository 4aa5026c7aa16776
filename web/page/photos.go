package page

// Photos are the photos of a brew for the template "photos", with the form for another one.
type Photos struct {
	BrewID  string
	List    []Photo
	Most    int
	Removed string // id of the photo that was just removed
	Error   string
}

// A Photo is one photo, whose files are at /photos/{id} and /photos/{id}/small.
type Photo struct {
	ID, Alt       string
	Width, Height int
}

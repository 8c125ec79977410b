package mend

// Assign is for tests outside the package.
var Assign = assign

// Likeness is for tests outside the package.
var Likeness = likeness

// RenamingOf is for tests outside the package.
var RenamingOf = renamingOf

package api

// Nothing is the empty object.
type Nothing struct{}

// What is asked for, where a path of the address does not say it all.
type (
	// AskKey is a row's key.
	AskKey struct {
		Key string `query:"key"`
	}
	// AskMove is a folder, and where all that is expected below it may be.
	AskMove struct {
		From string `query:"from"`
		To   string `query:"to"`
	}
	// AskPath is a file.
	AskPath struct {
		Path string `query:"path"`
	}
	// AskFolder is a window of a folder: entries whose names hold Holds, from one place on.
	AskFolder struct {
		Path  string `query:"path"`
		Holds string `query:"q"`
		From  int    `query:"from"`
	}
	// AskDiffers compares a file with what a missing one was when it was last seen.
	AskDiffers struct {
		Path string `query:"path"`
		Last string `query:"last"`
	}
	// AskRepair is a repair of a project; Batch is what was done with it in one act.
	AskRepair struct {
		Repair int64 `param:"repair"`
		Batch  bool  `query:"batch"`
	}
	// AskRecipes are recipes, and how a project's choices differ from them.
	AskRecipes struct {
		Project int64 `query:"project"`
	}
	// AskDestination is where a crate would go.
	AskDestination struct {
		Out string `query:"out"`
	}
)

// Gen prints the JSON schema of the server's types, from which TypeScript's
// are made: go run ./app/api/gen > web/schema.json
package main

import (
	"encoding/json"
	"fmt"
	"os"

	"boundcrate/app/api/all"
)

func main() {
	b, err := json.MarshalIndent(all.Schema(), "", "  ")
	if err != nil {
		fmt.Fprintln(os.Stderr, err)
		os.Exit(1)
	}
	os.Stdout.Write(append(b, '\n'))
}

// Gen prints what the interface knows of the server: with "schema" the JSON schema of the types
// on the wire, with "client" the routes as TypeScript. make types runs it.
package main

import (
	"encoding/json"
	"fmt"
	"os"

	"boundcrate/app/api/schema"
	"boundcrate/server"
)

func main() {
	if len(os.Args) == 2 && os.Args[1] == "client" {
		fmt.Print(server.Client())
		return
	}
	b, err := json.MarshalIndent(schema.Of(server.Wire()), "", "  ")
	if err != nil {
		fmt.Fprintln(os.Stderr, err)
		os.Exit(1)
	}
	fmt.Println(string(b))
}

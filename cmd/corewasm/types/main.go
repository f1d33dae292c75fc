// Command types writes what the browser knows of the core's questions and answers, in TypeScript.
package main

import (
	"fmt"

	"huekeep/cmd/corewasm/engine"
)

func main() { fmt.Print(engine.TypeScript()) }

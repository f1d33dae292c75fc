// Command types writes what the browser knows of the core's questions and answers, in TypeScript, and the tables of the rules that it draws
// from.
package main

import (
	"encoding/json"
	"fmt"

	"huekeep/cmd/corewasm/engine"
	"huekeep/core/audit"
	"huekeep/keep/send"
)

func main() {
	fmt.Print(engine.TypeScript())
	table("verdicts", "The verdicts (core/audit/verdict.go), those first that want a decision.", audit.Sorts())
	table("recipientKinds", "The kinds of recipients (keep/send/recipients.go).", send.Kinds)
}

// table writes a table of the rules that the page draws from.
func table(name, what string, rows any) {
	text, err := json.MarshalIndent(rows, "", "  ")
	if err != nil {
		panic(err)
	}
	fmt.Printf("\n/** %s */\nexport const %s = %s as const;\n", what, name, text)
}

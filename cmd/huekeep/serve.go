package main

import "github.com/spf13/cobra"

func serverCommands() []*cobra.Command { return nil }

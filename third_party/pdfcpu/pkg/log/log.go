/*
Copyright 2018 The pdfcpu Authors.

Licensed under the Apache License, Version 2.0 (the "License");
you may not use this file except in compliance with the License.
You may obtain a copy of the License at

	http://www.apache.org/licenses/LICENSE-2.0

Unless required by applicable law or agreed to in writing, software
distributed under the License is distributed on an "AS IS" BASIS,
WITHOUT WARRANTIES OR CONDITIONS OF ANY KIND, either express or implied.
See the License for the specific language governing permissions and
limitations under the License.
*/

// Package log provides a logging abstraction.
package log

// Logger defines an interface for logging messages.
type Logger interface {

	// Printf logs a formatted string.
	Printf(format string, args ...interface{})

	// Println logs a line.
	Println(args ...interface{})

	// Fatalf is equivalent to Printf() followed by a program abort.
	Fatalf(format string, args ...interface{})

	// Fatalln is equivalent to Println() followed by a progam abort.
	Fatalln(args ...interface{})
}

type logger struct {
	log Logger
}

// pdfcpu's loggers.
var (

	// Horizontal loggers
	Debug = &logger{}
	Info  = &logger{}
	Stats = &logger{}
	Trace = &logger{}

	// Vertical loggers
	Parse    = &logger{}
	Read     = &logger{}
	Validate = &logger{}

	Write = &logger{}
	CLI   = &logger{}
)

// CLIEnabled returns true if the CLI Logger is enabled.
func CLIEnabled() bool {
	return CLI.log != nil
}

// DebugEnabled returns true if the Debug Logger is enabled.
func DebugEnabled() bool {
	return Debug.log != nil
}

// InfoEnabled returns true if the Info Logger is enabled.
func InfoEnabled() bool {
	return Info.log != nil
}

// ParseEnabled returns true if the Parse Logger is enabled.
func ParseEnabled() bool {
	return Parse.log != nil
}

// ReadEnabled returns true if the Read Logger is enabled.
func ReadEnabled() bool {
	return Read.log != nil
}

// StatsEnabled returns true if the Read Logger is enabled.
func StatsEnabled() bool {
	return Stats.log != nil
}

// TraceEnabled returns true if the Trace Logger is enabled.
func TraceEnabled() bool {
	return Trace.log != nil
}

// ValidateEnabled returns true if the Validate Logger is enabled.
func ValidateEnabled() bool {
	return Validate.log != nil
}

// WriteEnabled returns true if the Write Logger is enabled.
func WriteEnabled() bool {
	return Write.log != nil
}

// Printf writes a formatted message to the log.
func (l *logger) Printf(format string, args ...interface{}) {

	if l.log == nil {
		return
	}

	l.log.Printf(format, args...)
}

// Println writes a line to the log.
func (l *logger) Println(args ...interface{}) {

	if l.log == nil {
		return
	}

	l.log.Println(args...)
}

// Fatalf is equivalent to Printf() followed by a program abort.
func (l *logger) Fatalf(format string, args ...interface{}) {

	if l.log == nil {
		return
	}

	l.log.Fatalf(format, args...)
}

// Fatalln is equivalent to Println() followed by a program abort.
func (l *logger) Fatalln(args ...interface{}) {

	if l.log == nil {
		return
	}

	l.log.Fatalln(args...)
}

// Package demo holds the made-up houses that the program shows itself with, and project files of theirs with a known
// list of planted colors.
package demo

import (
	"huekeep/core/color"
)

// House is a made-up organization as it stands when the demo starts.
type House struct {
	Name       string
	Groups     []string
	Colors     []Color
	Sets       []Set
	Recipients []Recipient
	Gradients  []Gradient
	Pairs      []Pair
	Boards     []Board
	Sentence   string            // on top of public pages
	Public     string            // the set that is public
	Loading    map[string]string // what the house says of loading, by core/swatchfile/loading.txt
	Troubles   []Trouble
}

// Board is a board of a demo house with a fixed sheet of it.
type Board struct {
	Title, Intro                   string
	Headline, Lines, Button, Small string
	Options                        []Option
	Answers                        []Answer
}

// Option is an option of a demo board, in names of colors.
type Option struct {
	Ground, Type, Outline string
	Accents               []string
	Typeface              string
}

// Answer is what somebody chose on a demo board's sheet.
type Answer struct {
	Choice        int
	Name, Comment string
}

// Pair is a rule of a demo house about one color on another; the ratio is 0 where it may not stand there.
type Pair struct {
	Color, Ground string
	Ratio         float64
}

// Gradient runs between two colors of a demo house.
type Gradient struct{ Name, From, To, Space string }

// Color is a library color of a demo house.
type Color struct {
	Name, Hex, Group, Role, Rule string
	Successor                    string // set for a retired color
	CMYK                         string // a build that the keeper approved
	Spot                         string // an ink that the keeper approved, on coated stock
	Aliases                      string // what others call it
	Tints                        []int  // percent tints that are permitted
	Sheers                       []int  // opacities in percent that are permitted
	Over                         string // a color before it, which they lie over
	// a value beyond sRGB, a build or an ink that decides it, "Lab ..." for a reading, with its spectrum behind
	// it; the hex is approved then
	Decides string
	Why     string // it does, in words
}

// Set is a swatch set; Old is the order of an earlier edition that recipients may still hold.
type Set struct {
	Name     string
	Editions [][]string // names, one list an edition; the last is current
	Notes    []string   // to the editions
}

// Recipient is somebody who gets editions; Holds gives the edition number that they last took of a set.
type Recipient struct {
	Name, Kind, Note string
	Holds            map[string]int // 0 for a set that it gets and never got
	Packings, Ways   []string
	Email            string
	Paused           bool
	Fetches          bool // a build of its fetched from its pickup
}

// Ferries is Odelwick Ferries, an island ferry line.
var Ferries = House{
	Name:   "Odelwick Ferries",
	Groups: []string{"Hull", "Signals", "Landscape", "Neutrals"},
	Colors: []Color{
		{Name: "Deep Sound", Hex: "#0E3A53", Group: "Hull", Role: "primary", Rule: "Hulls, headings, dark ground", CMYK: "96 50 20 64",
			Aliases: "Hull blue", Tints: []int{60, 30}},
		{Name: "Buoy", Hex: "#E2572B", Group: "Signals", Role: "primary", Rule: "One call to action a page; safety film titles",
			CMYK: "0 77 92 6", Spot: "nearest"},
		{Name: "Lamp", Hex: "#F2B632", Group: "Signals", Role: "accent", Rule: "Data and highlights; never as text on white",
			Decides: "color(display-p3 0.93 0.72 0.13)", Why: "the kiosks\u2019 screens show it as the lamps burn"},
		{Name: "Saltmarsh", Hex: "#4E7D5B", Group: "Landscape", Role: "accent", Rule: "Harbors open, environment",
			Decides: "QN-0324 on coated", Why: "the harbor boards are printed in it"},
		{Name: "Heather Cliff", Hex: "#7A4E7E", Group: "Landscape", Role: "accent", Rule: "Winter campaign only",
			Decides: "cmyk(51 75 9 25) on coated", Why: "the printer of the winter posters signed it"},
		{Name: "Ice Ramp", Hex: "#8FC1D4", Group: "Hull", Role: "secondary", Rule: "Tint on Deep Sound; data", Sheers: []int{40},
			Over: "Deep Sound"},
		{Name: "Fog", Hex: "#C9D1D3", Group: "Neutrals", Role: "neutral", Rule: "Rules, tables",
			Decides: "Lab 82.91 -2.35 -1.62 of 380 10 0.67 0.6786 0.6811 0.6784 0.6716 0.6623 0.6518 0.6413 0.6318 0.6238 0.618 0.6144 " +
				"0.6133 0.6145 0.6179 0.6229 0.6286 0.6341 0.6383 0.6399 0.6378 0.6311 0.6189 0.6011 0.5783 0.5526 0.5277 0.5089 0.5031 " +
				"0.5167 0.5543 0.6156 0.6917 0.7668 0.8262 0.8646", Why: "measured on the enamel of the jetty signs"},
		{Name: "Slate Quay", Hex: "#3B444B", Group: "Neutrals", Role: "neutral", Rule: "Body text"},
		{Name: "Hull White", Hex: "#F7F5F0", Group: "Neutrals", Role: "neutral", Rule: "Paper"},
		{Name: "Old Funnel", Hex: "#D9482B", Group: "Signals", Rule: "Replaced by Buoy", Successor: "Buoy"},
	},
	Sets: []Set{
		{"Core", [][]string{
			{"Deep Sound", "Buoy", "Lamp", "Ice Ramp", "Fog", "Slate Quay"},
			{"Deep Sound", "Buoy", "Lamp", "Saltmarsh", "Ice Ramp", "Fog", "Slate Quay", "Hull White"},
		}, nil},
		{"Charts", [][]string{{"Deep Sound", "Buoy", "Lamp", "Ice Ramp", "Saltmarsh", "Fog"}}, nil},
		{"Safety film", [][]string{{"Buoy", "Hull White"}, {"Buoy", "Hull White", "Lamp"}, {"Buoy", "Hull White", "Deep Sound", "Lamp"}},
			[]string{"Titles and their ground", "Lamp for the lifejacket scenes", "Deep Sound for the end card"}},
		{"Winter", [][]string{{"Heather Cliff", "Ice Ramp", "Deep Sound"}, {"Heather Cliff", "Ice Ramp", "Deep Sound", "Lamp"}},
			[]string{"", "With Lamp, for the night sailings"}},
	},
	Recipients: []Recipient{
		{"Ticket office", "office", "Slides and fare tables in all harbors", map[string]int{"Core": 1}, []string{"deck"},
			[]string{"application"}, "", false, false},
		{"Booking site", "web", "Custom properties of the booking pages", map[string]int{"Core": 2, "Charts": 1}, []string{"css", "tokens"},
			[]string{"application", "pickup"}, "", false, true},
		{"Film crew", "video", "Crew safety films; sixteen boxes to key in", map[string]int{"Safety film": 1},
			[]string{"video-csv", "webvtt"}, []string{"application"}, "", false, false},
		{"Harbor print shop", "print", "Timetables and posters; closed in November", map[string]int{"Charts": 1},
			[]string{"print-pdf", "cxf"}, []string{"hand", "pickup"}, "", true, false},
		{"Winter agency", "client", "No programs of their own; looks and says yes", map[string]int{"Winter": 2},
			[]string{"swatch-png", "sheet-pdf"}, []string{"mail", "pickup"}, "studio@winter-agency.example", false, false},
	},
	Sentence: "Four islands, nine boats, one palette. Ask the harbor office before you print anything larger than a door.",
	Public:   "Core",
	Loading: map[string]string{
		"office-template": "The file goes into Harbor share, Office, Templates; whoever has the share has it.\nBegin anew with New, Own, Odelwick Ferries.\nWhen a newer edition comes, answer yes when you are asked whether to replace it.",
		"key-in":          "On the title mixer: menu Mattes, one row a color, in the order of the card.\nKeep the bank as FERRY before you leave the menu.",
	},
	Troubles: []Trouble{{"Winter agency", "Winter", "sheet-pdf",
		"On our office printer Heather Cliff comes out gray. On the screen it is right."}},
	Gradients: []Gradient{{"Morning crossing", "Deep Sound", "Ice Ramp", "oklab"}, {"Safety titles", "Buoy", "Lamp", "oklch"}},
	Pairs: []Pair{{"Deep Sound", "Hull White", 7}, {"Hull White", "Deep Sound", 7}, {"Lamp", "Deep Sound", 4.5}, {"Lamp", "Hull White", 0},
		{"Buoy", "Hull White", 3}, {"Hull White", "Buoy", 3}},
	Boards: []Board{{Title: "Winter campaign, four directions", Intro: "Which of these says winter to you? The texts are the same on each.",
		Headline: "Winter crossings start Monday",
		Lines:    "Eight sailings a day until March, two of them by night. Warm cabins, hot soup, room for bicycles.",
		Button:   "Buy tickets", Small: "Sailings depend on the weather.",
		Options: []Option{{"Deep Sound", "Hull White", "", []string{"Ice Ramp", "Lamp"}, "hanken-grotesk"},
			{"Ice Ramp", "Deep Sound", "", []string{"Deep Sound"}, "spectral"},
			{"Heather Cliff", "Hull White", "Lamp", []string{"Lamp", "Deep Sound"}, "hanken-grotesk"}, {"Hull White", "Deep Sound", "",
				[]string{"Slate Quay"}, "zilla-slab"}},
		Answers: []Answer{{1, "Winter agency, copy desk",
			"The night sailing is the news, and B looks like the hour before dawn. Could the button be a little larger?"},
			{2, "Winter agency, art desk", "C is the one people will remember from across the street."}}}},
}

// Trouble is what a recipient could not load.
type Trouble struct{ Recipient, Set, Packing, Tried string }

// Bakery is Pellow Lane Bakery, which shows that one coordinator may keep several houses.
var Bakery = House{
	Name:   "Pellow Lane Bakery",
	Groups: []string{"Shop"},
	Colors: []Color{
		{Name: "Crust", Hex: "#8A5A34", Group: "Shop", Role: "primary", Rule: "Signs and bags"},
		{Name: "Oven Glow", Hex: "#E89B4C", Group: "Shop", Role: "accent", Rule: "Offers of the day"},
		{Name: "Flour", Hex: "#FAF6EC", Group: "Shop", Role: "neutral", Rule: "Paper"},
		{Name: "Poppy Seed", Hex: "#2E2A33", Group: "Shop", Role: "neutral", Rule: "Text"},
	},
	Sets: []Set{{"Shop", [][]string{{"Crust", "Oven Glow", "Flour", "Poppy Seed"}}, nil}},
	Recipients: []Recipient{{"Shop web page", "web", "", map[string]int{"Shop": 0}, []string{"css"}, []string{"application"}, "", false,
		false}},
}

// Accounts are the people of the demo; the sign-in page offers them in demo mode only. They all use Password.
var Accounts = []struct{ Name, Email, Role string }{
	{"Keeper", "keeper@odelwick.example", "keeper"},
	{"Contributor", "contributor@odelwick.example", "contributor"},
	{"Reader", "reader@odelwick.example", "reader"},
}

// Password opens every demo account.
const Password = "island-ferry-demo"

func hexOf(name string) color.RGB8 {
	for _, c := range Ferries.Colors {
		if c.Name == name {
			rgb, err := color.FromHex(c.Hex)
			if err != nil {
				panic(err)
			}
			return rgb
		}
	}
	panic("no demo color " + name)
}

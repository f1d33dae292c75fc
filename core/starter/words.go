package starter

import (
	"math"
	"slices"
	"strings"
	"unicode"

	"huekeep/core/color"
)

// Match is a starter that words lead to.
type Match struct {
	Starter
	Missed []string // words of the query that it does not have, as they were typed; none where another has all of them
	score  float64
}

// Find narrows a list down to the starters that words lead to, the closest first: by their names and keywords, in any number and by their
// synonyms, by colors that they hold ("blue", "dark red", "warm gray"), and with a letter missed, too many, another or in another place. If
// none has all of the words, those that have the most of them are found. A word is never found inside another one. Without a word that says
// something, it is the list as it is.
func Find(list []Starter, query string) []Match {
	terms := parse(query)
	out := make([]Match, 0, len(list))
	if len(terms) == 0 {
		for _, s := range list {
			out = append(out, Match{Starter: s})
		}
		return out
	}
	known := index(list)
	for i := range terms {
		terms[i].spell(known.words)
	}
	least := len(terms) // the fewest words that one misses
	for i, s := range list {
		m := Match{Starter: s}
		for _, t := range terms {
			score := known.score(i, s, t)
			if score == 0 {
				m.Missed = append(m.Missed, t.text)
			}
			m.score += score
		}
		if len(m.Missed) < len(terms) {
			least = min(least, len(m.Missed))
			out = append(out, m)
		}
	}
	out = slices.DeleteFunc(out, func(m Match) bool { return len(m.Missed) > least })
	slices.SortStableFunc(out, func(a, b Match) int {
		switch {
		case a.score > b.score:
			return -1
		case a.score < b.score:
			return 1
		}
		return 0
	})
	return out
}

// term is a word of a query, or a color word with what stands before it.
type term struct {
	text  string
	words []string // its stem and its synonyms
	loose []string // what it may be with a letter wrong
	hue   string   // of a color word: its family
	how   []string // "dark", "warm": what such a color must be
}

// filler are words that say nothing of a palette.
var filler = words("a an and the with for of in on at to or like some my our color colour palette scheme swatch tone shade theme something very feel mood style look")

// synonyms are what people type for what the starters are called by, and for each other.
var synonyms = pairs(`
ocean sea | marine sea maritime | nautical maritime sailing | seaside coast beach | shore coast beach | waves sea water
aqua turquoise water | fall autumn | autumnal autumn | wintry winter | winterly winter | summery summer | spring spring
snowy snow winter | icy ice | frosty frost winter | chilly cold | grey gray | cyan turquoise | teal turquoise | purple violet
lilac violet | lavender lavender violet | mauve violet | fuchsia magenta | scarlet red | crimson red | cherry red cherry
navy navy | azure blue sky | cobalt blue | indigo blue violet | olive olive | khaki olive beige | sand sand | tan tan beige
cream cream | ivory ivory cream | ecru beige | golden gold | silvery silver | wooden wood | floral flower | flowery flower
blossom blossom flower | leafy leaf green | earthy earth | natural natural nature | organic nature eco | sustainable eco
ecological eco | environment eco nature | plants nature garden | botanical garden nature flower | woods forest | woodland forest
tree forest | mountains mountain | xmas christmas | noel christmas | yule christmas | santa christmas | nye newyear
firework fireworks | spooky halloween | romantic romance love | valentines valentine | bridal wedding | marriage wedding
festive holiday party | celebration party | feast party food | kids children | child children | toddler children baby
childish children fun | playful fun children | business corporate office | company corporate | professional corporate
formal corporate serious | financial finance bank | banking bank | legal law | medical health | hospital health | doctor health
wellness wellness spa | tech technology | digital technology | computer computer technology | software technology
cyber technology neon | futuristic futuristic space | cafe coffee | mocha coffee chocolate | bakery bakery bread
dessert dessert sweet | sugary sweet | fruity fruit | veggie vegetable | restaurant restaurant dinner | cooking kitchen
cosmetic cosmetics beauty | makeup makeup | flesh skin | complexion skin | nude nude skin | portrait portrait skin
elegant elegant | classy elegant | posh luxury | luxurious luxury | rich rich luxury | royal royal luxury | chic elegant fashion
fashionable fashion | vintage vintage retro | retro retro vintage | nostalgic retro vintage | old old vintage | antique old
ancient ancient | twenties 1920s | fifties 1950s | sixties 1960s | seventies 1970s | eighties 1980s | nineties 1990s | 20s 1920s
40s 1940s | 50s 1950s | 60s 1960s | 70s 1970s | 80s 1980s | 90s 1990s | y2k 2000s | hippy hippie | boho hippie earth
bohemian hippie earth | gothic dark violet | grunge grunge | scandinavian nordic | scandi nordic | swedish nordic
mexican colorful festival | japanese japan | italian italy | greek greece | moroccan morocco | indian india | african africa
egyptian egypt | chinese asia lunarnewyear | oriental asia | tropical tropical | exotic exotic tropical | vacation holiday travel
trip travel | flight airline travel | traffic transport | urban city | town city | street city street | industrial industry
factory industry | metallic metal | rustic country wood | rural country | farmhouse farm country | cosy warm | cozy warm
hygge nordic warm | homely home | peaceful calm | relaxing calm | serene calm | tranquil calm | quiet quiet | subtle muted soft
gentle soft | delicate soft pastel | toned muted | dusty muted | desaturated muted | faded muted vintage | washed muted
bright bright | vibrant vivid | saturated vivid | loud vivid | intense vivid | strong strong | bold bold | energetic energy
dynamic energy sport | sporty sport | fitness sport running | happy happy | cheerful happy fun | joyful happy fun | joy happy
sad muted gray | melancholy muted mist | moody dark night | mysterious dark night | dramatic dark bold | gloomy dark gray
nightly night | evening evening | sunset sunset | sundown sunset | sunrise sunrise | dawn dawn | morning morning
dusk dusk twilight | twilight twilight | starry stars | cosmic space | galaxy space | universe space | planet space
sunny sun summer | rainy rain | stormy storm | cloudy mist gray | foggy mist | misty mist | windy wind | weather weather
minimalist minimal | minimalistic minimal | simple minimal | plain minimal neutral | neutrals neutral | monochrome gray minimal
modern modern | contemporary modern | trustworthy trust | reliable trust | serious serious | academic university education
school school | teaching education | kindergarten children primary | politics civic | government public civic | religion church
pets pet | animals animal | puppy dog | kitten cat | birds bird | gemstone gem | jewel gem jewelry | jewellery jewelry
stones stone | rocks rock stone | fire fire | flame fire | lava lava fire | ferry ferry | boat sailing sea | ship sailing sea
harbour harbor | port harbor | fishing fish sea | beer beer | wine wine | cocktail drink | candy candy sweet
icecream sweet pastel`)

// hues are the color words, each a family of look.
var hues = map[string]string{
	"red": "red", "orange": "orange", "yellow": "yellow", "green": "green", "turquoise": "turquoise", "teal": "turquoise",
	"cyan": "turquoise", "blue": "blue", "violet": "violet", "purple": "violet", "lilac": "violet", "pink": "pink",
	"magenta": "pink", "rose": "pink", "brown": "brown", "beige": "beige", "cream": "beige", "gray": "gray", "grey": "gray",
	"black": "black", "white": "white", "gold": "gold", "navy": "navy",
}

// hows are words that narrow a color word down.
var hows = map[string]string{
	"dark": "dark", "deep": "dark", "light": "light", "pale": "light", "soft": "muted", "pastel": "pastel", "bright": "vivid",
	"vivid": "vivid", "vibrant": "vivid", "strong": "vivid", "muted": "muted", "dull": "muted", "dusty": "muted", "warm": "warm",
	"cold": "cool", "cool": "cool",
}

func words(list string) map[string]bool {
	out := map[string]bool{}
	for _, w := range strings.Fields(list) {
		out[stem(w)] = true
	}
	return out
}

func pairs(table string) map[string][]string {
	out := map[string][]string{}
	for _, entry := range strings.FieldsFunc(table, func(r rune) bool { return r == '|' || r == '\n' }) {
		if f := strings.Fields(entry); len(f) > 1 {
			for _, w := range f[1:] {
				out[stem(f[0])] = append(out[stem(f[0])], stem(w))
			}
		}
	}
	return out
}

// split parts a text into words in small letters.
func split(text string) []string {
	return strings.FieldsFunc(strings.ToLower(text), func(r rune) bool { return !unicode.IsLetter(r) && !unicode.IsDigit(r) })
}

// stem is a word in the singular.
func stem(w string) string {
	w = strings.ToLower(w)
	switch n := len(w); {
	case n > 4 && strings.HasSuffix(w, "ies"):
		return w[:n-3] + "y"
	case n > 4 && (strings.HasSuffix(w, "shes") || strings.HasSuffix(w, "ches") || strings.HasSuffix(w, "xes") ||
		strings.HasSuffix(w, "sses")):
		return w[:n-2]
	case n > 4 && strings.HasSuffix(w, "ves"):
		return w[:n-3] + "f"
	case n > 3 && strings.HasSuffix(w, "s") && !strings.HasSuffix(w, "ss") && !strings.HasSuffix(w, "us") && !unicode.IsDigit(rune(w[n-2])):
		return w[:n-1]
	}
	return w
}

// parse makes terms of what was typed.
func parse(query string) (out []term) {
	list := split(query)
	for i := 0; i < len(list); i++ {
		w := stem(list[i])
		if filler[w] {
			continue
		}
		if hue := hues[w]; hue != "" {
			out = append(out, term{text: list[i], words: []string{w}, hue: hue})
			continue
		}
		if how, next := hows[list[i]], i+1; how != "" && next < len(list) && hues[stem(list[next])] != "" {
			out = append(out, term{text: list[i] + " " + list[next], hue: hues[stem(list[next])], how: []string{how}})
			i++
			continue
		}
		t := term{text: list[i], words: append([]string{w}, synonyms[w]...)}
		if how := hows[list[i]]; how != "" {
			t.how = []string{how}
		}
		out = append(out, t)
	}
	return out
}

// spell finds what a word may be that nobody knows: one letter of it is wrong.
func (t *term) spell(known map[string]bool) {
	if t.hue != "" || len(t.how) > 0 || slices.ContainsFunc(t.words, func(w string) bool { return known[w] }) {
		return
	}
	const shortest = 4 // of shorter ones, too many differ by a letter
	if len(t.text) < shortest {
		return
	}
	w := stem(t.text)
	for k := range known {
		if oneOff(w, k) {
			t.loose = append(t.loose, k)
		}
	}
	for k, to := range synonyms {
		if oneOff(w, k) {
			t.loose = append(t.loose, to...)
		}
	}
	for k, hue := range hues {
		if oneOff(w, k) {
			t.hue = hue
		}
	}
}

// oneOff says whether a letter is missing, too many, another one, or has changed places with its neighbor.
func oneOff(a, b string) bool {
	x, y := []rune(a), []rune(b)
	if len(x) > len(y) {
		x, y = y, x
	}
	if len(y)-len(x) > 1 {
		return false
	}
	i := 0
	for i < len(x) && x[i] == y[i] {
		i++
	}
	switch {
	case len(x) < len(y):
		return string(x[i:]) == string(y[i+1:])
	case i == len(x):
		return true
	case string(x[i+1:]) == string(y[i+1:]):
		return true
	}
	return i+1 < len(x) && x[i] == y[i+1] && x[i+1] == y[i] && string(x[i+2:]) == string(y[i+2:])
}

// vocabulary is what a list is called by.
type vocabulary struct {
	names, keywords []map[string]bool // of each starter
	words           map[string]bool   // of all
}

func index(list []Starter) vocabulary {
	v := vocabulary{words: map[string]bool{}}
	for _, s := range list {
		name, keys := map[string]bool{}, map[string]bool{}
		for _, w := range split(s.Name) {
			name[stem(w)], v.words[stem(w)] = true, true
		}
		for _, k := range s.Keywords {
			for _, w := range split(k) {
				keys[stem(w)], v.words[stem(w)] = true, true
			}
		}
		v.names, v.keywords = append(v.names, name), append(v.keywords, keys)
	}
	return v
}

// score is how well a term leads to a starter; 0 if it does not.
func (v vocabulary) score(i int, s Starter, t term) float64 {
	best := 0.0
	for n, w := range t.words {
		value := 4.0
		if n > 0 { // the first synonym is the closest
			value = max(1, 3-0.5*float64(n))
		}
		switch {
		case v.names[i][w]:
			best = max(best, value+1)
		case v.keywords[i][w]:
			best = max(best, value)
		}
	}
	for _, w := range t.loose {
		if v.names[i][w] || v.keywords[i][w] {
			best = max(best, 1.5)
		}
	}
	if t.hue != "" || len(t.how) > 0 && len(t.words) > 0 {
		best = max(best, held(s.Colors, t))
	}
	return best
}

// held is how far the colors of a starter are what a color word says: at least two of five are of its hue, or one that is narrowed down.
func held(colors []color.RGB8, t term) float64 {
	n, wanted := 0, 2
	if t.hue == "" { // "pastel", "warm": most of them
		wanted = len(colors) - 1
	} else if len(t.how) > 0 || t.hue == "navy" || t.hue == "gold" || t.hue == "black" || t.hue == "white" {
		wanted = 1
	}
	for _, c := range colors {
		of := c.RGB().OKLab().OKLCH()
		if (t.hue == "" || isHue(of, t.hue)) && !slices.ContainsFunc(t.how, func(h string) bool { return !isSo(of, h) }) {
			n++
		}
	}
	if n < wanted {
		return 0
	}
	return 1 + 0.5*float64(n)/float64(len(colors))
}

// isHue says whether a color is what people call by a word. The bounds are ours, chosen by eye on the hue circle of OKLCH.
func isHue(c color.OKLCH, name string) bool {
	h := math.Mod(c.H+360, 360)
	vivid := c.C >= 0.04
	switch name {
	case "gray":
		return c.C < 0.035 && c.L > 0.3 && c.L < 0.92
	case "black":
		return c.L < 0.32 && c.C < 0.06
	case "white":
		return c.L > 0.93 && c.C < 0.03
	case "brown":
		return h > 25 && h < 95 && c.L < 0.62 && c.C > 0.025 && c.C < 0.13
	case "beige":
		return h > 40 && h < 105 && c.L > 0.72 && c.C > 0.008 && c.C < 0.07
	case "gold":
		return h > 68 && h < 98 && c.L > 0.6 && c.L < 0.9 && c.C > 0.07
	case "navy":
		return h > 240 && h < 285 && c.L < 0.42 && c.C > 0.03
	case "red":
		return vivid && c.C > 0.08 && (h > 10 && h < 36) && c.L < 0.72
	case "pink":
		return vivid && (h > 325 || h < 25) && c.L > 0.55
	case "orange":
		return vivid && h >= 36 && h < 72 && c.L > 0.55 && c.C > 0.08
	case "yellow":
		return vivid && h >= 78 && h < 112 && c.L > 0.72
	case "green":
		return vivid && h >= 112 && h < 172
	case "turquoise":
		return vivid && h >= 172 && h < 222
	case "blue":
		return vivid && h >= 222 && h < 280
	case "violet":
		return vivid && h >= 280 && h < 330
	}
	return false
}

func isSo(c color.OKLCH, how string) bool {
	h := math.Mod(c.H+360, 360)
	switch how {
	case "dark":
		return c.L < 0.48
	case "light":
		return c.L > 0.76
	case "pastel":
		return c.L > 0.7 && c.C < 0.1
	case "vivid":
		return c.C > 0.11
	case "muted":
		return c.C < 0.075
	case "warm":
		return h < 112 || h > 335
	case "cool":
		return h > 150 && h < 320
	}
	return false
}

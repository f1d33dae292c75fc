package trail

import (
	"encoding/json"
	"fmt"
	"slices"
	"strings"

	"huekeep/keep"
)

// What the trail says of each operation, in the words of whoever did it: the subject stands before it. A part in brackets is left out where
// what it names is not known: {about} is what it was done to, everything else is of what was asked for or is different since. An operation
// may have more sentences, by what was asked for; the first that fits is taken. A test holds the table against the contract.
var sentences = map[string][]string{
	"addExcuse":          {"excused[ {about}][ in {file}][: {reason}]"},
	"putLoading":         {"text=: took back what the house says of loading[ {note}]", "wrote how[ {note}] is loaded"},
	"putLoadingPicture":  {"put a picture to how[ {note}] is loaded"},
	"dropLoadingPicture": {"took the picture away from how[ {note}] is loaded"},
	"settleTrouble":      {"settled what somebody could not load"},
	"reopenTrouble":      {"opened again what somebody could not load"},
	"openPublic":         {"made[ {about}] public"},
	"closePublic":        {"closed the public link to[ {about}]"},
	"addHook":            {"has programs told at[ {address}]"},
	"changeHook":         {"changed what programs are told at[ {address}]"},
	"dropHook":           {"tells programs nothing any more at[ {about}]"},
	"addGradient":        {"made the gradient[ {about}]"},
	"addColor":           {"added the color[ {about}]"},
	"addPress":           {"added the press[ {label}]"},
	"addProject":         {"began the project[ {about}]"},
	"addProjectFile":     {"put[ {path}] into the project[ {about}]"},
	"addProjectFiles":    {"put[ {files}] into the project[ {about}]"},
	"addReceipt":         {"put on record that[ {about}] has an edition"},
	"addStarter":         {"kept the starter palette[ {about}]"},
	"addTypeface":        {"took in a typeface[: {uploaded}]"},
	"admit":              {"took what was on the tray into the library[: {admitted}][; new values for {renewed}][; {suggested} suggested]"},
	"adoptOption":        {"adopted an option of the board[ {about}]"},
	"answerSuggestion":   {"take=true: took a suggestion[ about {color}]", "declined a suggestion[ about {color}]"},
	"approveHex":         {"approved[ {value}] as hex of[ {about}]"},
	"approveBuild":       {"approved[ {value} for {press}] as build of[ {about}]"},
	"approveSpot":        {"approved[ {code} on {stock} stock] as ink of[ {about}]"},
	"auditAgain":         {"judged the file[ {about}] again"},
	"beginRun":           {"judged the project[ {about}]"},
	"bringAllBack":       {"made several colors what they were before"},
	"bringBack":          {"made[ {about}] what it was before"},
	"changeBoard":        {"changed the board[ {about}]"},
	"changeColor":        {"status=retired: retired[ {about}]", "status=approved: approved[ {about}]", "amended[ {about}]"},
	"changeGradient":     {"changed the gradient[ {about}]"},
	"changeMany":         {"changed many colors at once"},
	"changeRecipient":    {"changed the recipient[ {about}]"},
	"changeSet":          {"changed the swatch set[ {about}]"},
	"closeBoardLink":     {"closed a link to the board[ {about}]"},
	"closePickup":        {"closed the addresses of[ {about}]"},
	"copyColors":         {"move=true: moved colors into another house", "copied colors into another house"},
	"createAudit":        {"judged the file[ {uploaded}]"},
	"createBoard":        {"made the board[ {about}]"},
	"createRecipient":    {"added the recipient[ {about}]"},
	"createSet":          {"made the swatch set[ {about}]"},
	"deleteBoard":        {"deleted the board[ {about}]"},
	"deleteGradient":     {"deleted the gradient[ {about}]"},
	"deleteGroup":        {"took the group[ {about}] away"},
	"deletePair":         {"took a rule about a pair with[ {about}] back"},
	"deletePress":        {"took the press[ {press}] away"},
	"deleteSet":          {"removed the swatch set[ {about}]"},
	"deleteStarter":      {"deleted a starter palette"},
	"downloadKit":        {"downloaded the kit of[ {about}]"},
	"downloadPacking":    {"downloaded[ {packing} of] the swatch set[ {about}]"},
	"downloadRepainted":  {"downloaded[ {about}]"},
	"printRepaint":       {"took a paper of what was changed in[ {about}]"},
	"dropHex":            {"took the approved hex of[ {about}] back"},
	"dropBuild":          {"took the approved build[ for {press}] of[ {about}] back"},
	"dropInkBook":        {"went back to the ink book that ships"},
	"dropMark":           {"took the mark of the house away"},
	"dropPlan":           {"deleted the repaint plan[ {about}]"},
	"dropProjectFile":    {"took[ {path}] out of the project[ {about}]"},
	"dropRun":            {"deleted[ {about}]"},
	"dropSpot":           {"took the approved ink[ on {stock} stock] of[ {about}] back"},
	"endExcuse":          {"ended the excuse of[ {about}]"},
	"endHouseToken":      {"ended an access token"},
	"endMembership":      {"took[ {about}] out of the house"},
	"exportAudit":        {"downloaded the report on[ {about}]"},
	"exportHouse":        {"downloaded the archive of the house"},
	"exportLibrary":      {"downloaded the library[ as {format}]"},
	"exportRun":          {"downloaded the report on[ {about}]"},
	"exportTrail":        {"downloaded the trail"},
	"fixEdition":         {"fixed an edition of[ {about}]"},
	"fixEditions":        {"fixed editions of several swatch sets"},
	"fixSheet":           {"fixed a sheet of the board[ {about}]"},
	"giveUpHouse":        {"closed the house"},
	"giveUpJob":          {"gave up work that was under way"},
	"invite":             {"invited[ {about}][ as {role}]"},
	"joinSet":            {"said that[ {about}] gets a swatch set"},
	"leaveSet":           {"said that[ {about}] no longer gets a swatch set"},
	"goBack":             {"took a change of many things back"},
	"mergeColor":         {"made one color of[ {about}] and another one"},
	"openBoardLink":      {"made a link to a sheet of[ {about}]"},
	"openPickup":         {"gave[ {about}] a new address"},
	"pauseRecipient":     {"paused[ {about}]"},
	"placeColor":         {"moved[ {about}] to another place"},
	"putFamily":          {"changed the tints and shades of[ {about}]"},
	"putInkBook":         {"imported the ink book[ {name}]"},
	"putPair":            {"may=true: said what[ {about}] may stand on", "said what[ {about}] may not stand on"},
	"reinstateEdition":   {"took the withdrawal of edition[ {number} of {about}] back"},
	"removeColor":        {"removed[ {about}] from the library"},
	"removeProject":      {"removed the project[ {about}]"},
	"removeRecipient":    {"removed the recipient[ {about}]"},
	"removeTypeface":     {"took the typeface[ {about}] away"},
	"renameGroup":        {"renamed the group[ {about}][ to {to}]"},
	"renameProject":      {"renamed the project[ {about}]"},
	"repaint":            {"dry=true: tried what repainting[ {about}] would change", "repainted[ {about}]"},
	"repaintAudit":       {"dry=true: tried what repainting[ {about}] would change", "repainted[ {about}]"},
	"restoreLibrary":     {"replace=true: replaced the library by[ {uploaded}]", "added[ {uploaded}] to the library"},
	"restoreProject":     {"brought the project[ {about}] back"},
	"restoreProjectFile": {"put[ {path}] back into the project[ {about}]"},
	"restoreRecipient":   {"brought the recipient[ {about}] back"},
	"restoreSet":         {"brought the swatch set[ {about}] back"},
	"resumeRecipient":    {"ended the pause of[ {about}]"},
	"savePlan":           {"kept the repaint plan[ {about}]"},
	"sendBehind":         {"remind=true: reminded those who have yet to confirm", "sent editions to those who were behind"},
	"sendEdition":        {"sent edition[ {number}] of[ {about}]"},
	"setJudging":         {"changed how files are judged"},
	"setMark":            {"gave the house a mark"},
	"setRole":            {"made[ {about}][ a {role}]"},
	"setSettings":        {"changed the settings of the house"},
	"succeedColor":       {"put the successor of[ {about}] into its sets"},
	"suggest":            {"suggested a change to[ {about}]"},
	"takeColors":         {"put colors of another set into[ {about}]"},
	"addRemark":          {"said something about a color[ in {about}]"},
	"dropRemark":         {"deleted a remark"},
	"takeRepainted":      {"took[ {about}] into its project"},
	"uninvite":           {"took an invitation back"},
	"unremoveColor":      {"brought[ {about}] back into the library"},
	"withdrawEdition":    {"withdrew edition[ {number}] of[ {about}][: {why}]"},
}

// columns are what of a thing stands in a sentence when it is different, and what it is called there.
var columns = []struct{ column, called string }{{"hex", ""}, {"name", "name"}, {"title", "title"}, {"role", "role"}, {"rule", "rule"},
	{"note", "note"}, {"email", "mail address"}, {"kind", "kind"},
	{"tolerance", "tolerance"}, {"pictures", "tolerance of pictures"}, {"keep_days", "days that runs are kept"}, {"trail_days",
		"days that the trail is kept"}}

// longestWord is how much of a value stands in a sentence.
const longestWord = 60

// Said says an entry as a sentence without its subject: "amended Buoy: #E2572B → #DD5522". What was refused or failed says so at its end.
func (t Entry) Said() string {
	before, after := object(t.Before), object(t.After)
	known := map[string]string{"about": t.About}
	asked, _ := after["asked"].(map[string]any)
	for _, m := range []map[string]any{after, asked} {
		for k, v := range m {
			if text := word(v); text != "" && k != "asked" {
				known[k] = text
			}
		}
	}
	said := InWords(t.What)
	for _, s := range sentences[t.What] {
		if when, rest, ok := strings.Cut(s, ": "); ok && strings.Contains(when, "=") {
			key, value, _ := strings.Cut(when, "=")
			if known[key] != value {
				continue
			}
			s = rest
		}
		said = fill(s, known)
		break
	}
	if len(sentences[t.What]) == 0 && t.About != "" {
		said += " " + t.About
	}
	var parts []string
	for _, c := range columns {
		was, is := word(before[c.column]), word(after[c.column])
		if was == is || asked != nil {
			continue
		}
		if was == "" {
			was = "nothing"
		}
		if is == "" {
			is = "nothing"
		}
		parts = append(parts, strings.TrimSpace(c.called+" "+was+" → "+is))
	}
	if len(parts) > 0 {
		said += ": " + strings.Join(parts[:min(len(parts), 3)], ", ")
	}
	switch {
	case t.Outcome >= 500:
		said += " (failed)"
	case t.Outcome >= 400:
		said += " (refused)"
	}
	return said
}

// InWords says what an operation does, of nothing in particular: "amended a color" is what one filters by.
func InWords(what string) string {
	list := sentences[what]
	if len(list) == 0 {
		return what
	}
	s := list[len(list)-1]
	return fill(s, map[string]string{})
}

// fill puts what is known into a sentence and leaves out the parts in brackets of which something is not. Where the thing itself is not
// known it is "something".
func fill(s string, known map[string]string) string {
	var out strings.Builder
	for s != "" {
		head, rest, ok := strings.Cut(s, "[")
		out.WriteString(head)
		if !ok {
			break
		}
		part, tail, _ := strings.Cut(rest, "]")
		s = tail
		whole, filled := true, ""
		for left := part; ; {
			before, key, ok := strings.Cut(left, "{")
			filled += before
			if !ok {
				break
			}
			key, left, _ = strings.Cut(key, "}")
			filled += known[key]
			whole = whole && known[key] != ""
		}
		if whole {
			out.WriteString(filled)
		} else if bare := strings.HasSuffix(out.String(), " of") || !strings.Contains(out.String(), " "); bare &&
			strings.HasPrefix(part, " ") && (tail == "" || tail[0] != '[') {
			out.WriteString(" something")
		}
	}
	return out.String()
}

func object(text string) map[string]any {
	var out map[string]any
	_ = json.Unmarshal([]byte(text), &out) // a state that was cut has nothing to say
	return out
}

// word is a value as it stands in a sentence; lists with commas.
func word(v any) string {
	switch v := v.(type) {
	case nil:
		return ""
	case []any:
		var list []string
		for _, e := range v {
			if w := word(e); w != "" {
				list = append(list, w)
			}
		}
		return keep.Names(slices.Clip(list))
	case map[string]any:
		return ""
	case string:
		return keep.Short(v, longestWord)
	}
	return fmt.Sprint(v)
}

package finding

import "huekeep/keep"

// place is one of the program's own, with the words that people look for it by.
type place struct {
	name, path, words string
	keeper            bool
}

// places are all that Find leads to; a new view is one line here.
var places = []place{
	{name: "Gather", path: "gather", words: "type paste list mail add color new colors tray candidates"},
	{name: "Colors from a picture", path: "gather/picture", words: "logo photo camera screenshot image extract pick"},
	{name: "Colors from files", path: "gather/file", words: "swatch palette file pdf manual import open document"},
	{name: "Harmony", path: "gather/harmony", words: "wheel complement complementary triad analogous scheme"},
	{name: "Starters", path: "gather/starters", words: "ideas palettes mood ready-made begin"},
	{name: "Readings", path: "gather/reading", words: "instrument measure measured spectro"},
	{name: "Library", path: "library", words: "ledger colors master list"},
	{name: "Gradients", path: "library/view/gradients", words: "gradient ramp stops"},
	{name: "Library as a picture", path: "library/view/plane", words: "gamut plane lab chroma lightness map outline"},
	{name: "Comparison", path: "library/view/compare", words: "compare side by side difference"},
	{name: "Ink book", path: "library/view/inks", words: "spot inks book fluorescent metallic"},
	{name: "Presses and inks", path: "library/view/presses",
		words: "press paper coated uncoated newsprint icc profile printer ink limit supplier book"},
	{name: "Backup", path: "library/view/backup", words: "export restore import download tokens csv save copy"},
	{name: "Proof", path: "proof", words: "check"},
	{name: "Contrast", path: "proof/contrast", words: "legible accessibility wcag aa aaa type on color text ratio"},
	{name: "Color vision", path: "proof/vision", words: "color blind colorblind deuteranopia protanopia tritanopia weak red green"},
	{name: "Print", path: "proof/print", words: "newsprint soft proof photo ink total coated paper dull"},
	{name: "Picture", path: "proof/picture", words: "photo held against compare palette"},
	{name: "At work", path: "proof/work", words: "specimens slide chart table callout title card timetable sign web"},
	{name: "Boards", path: "proof/boards", words: "options client choose show link approval"},
	{name: "Swatch sets", path: "send", words: "send set order slots theme office edition fix packings export"},
	{name: "Recipients", path: "send/recipients", words: "behind remind who has pickup address team"},
	{name: "Loading", path: "send/loading", words: "how install folder template menu import where put did not work trouble note"},
	{name: "Public links", path: "send/public", words: "public link anybody share brand page website guidelines portal everybody",
		keeper: true},
	{name: "Programs", path: "send/programs", words: "webhook webhooks hook api build told notify integration secret", keeper: true},
	{name: "Mail", path: "send/outbox", words: "outbox mails sent letters mailed", keeper: true},
	{name: "Audit", path: "audit", words: "judge check files project verdict off-brand drifted"},
	{name: "Repaint plans", path: "audit/plans", words: "rebrand map replace old new saved"},
	{name: "Settings of the house", path: "house",
		words: "name mark logo tolerance judging press default notation second factor rule trail kept"},
	{name: "People", path: "house/people", words: "invite invitation member roles keeper contributor reader colleague"},
	{name: "Trail", path: "house/trail", words: "history log who changed what when", keeper: true},
	{name: "Guide", path: "guide", words: "help how handbook manual tasks tutorial learn explain"},
	{name: "Your account", path: "account", words: "password second factor two factor passkey token sessions sign out e-mail name"},
}

func (s *search) places() {
	var hits []Hit
	for _, p := range places {
		if !p.keeper || s.a.Role.Reaches(keep.RoleKeeper) {
			s.take(&hits, Hit{Name: p.name, Path: p.path}, p.words)
		}
	}
	s.group("Places", hits, most)
}

package backup

import (
	"huekeep/core/library"
	"huekeep/store"
)

// known are the things of one kind that a house had before its library was replaced: their numbers by name, and their versions.
type known struct {
	named    map[string]int64
	versions map[int64]int
}

func (k *known) add(id int64, name string, version int) {
	if k.named == nil {
		k.named, k.versions = map[string]int64{}, map[int64]int{}
	}
	k.named[store.NameKey(name)], k.versions[id] = id, version
}

// before is what a house had before its library was replaced, as far as it goes on.
type before struct {
	colors, sets, gradients, recipients known
	same                                bool             // the file is a backup of this house: a color of it is there
	called                              bool             // it is of a house of this name
	slugs                               map[int64]string // what the files of sets are called at pickups, by set
	mails                               []store.Mail
	deliveries                          map[int64]receipt
	packed                              []store.PackedFile
	fixed                               map[edition]int64 // when each edition was fixed, in milliseconds
	suggestions                         []store.Suggestion
}

type edition struct {
	set    int64
	number int
}

// receipt is what a delivery is known again by.
type receipt struct {
	recipient, set int64
	number         int
	packing, way   string
}

func receiptOf(d store.Delivery) receipt {
	return receipt{d.RecipientID, d.SetID, d.Number, d.Packing, d.Way}
}

// look remembers what the house has, before it is emptied.
func (in *restore) look(colors []library.Color) error {
	house, now := in.a.House.ID, &in.before
	*now = before{deliveries: map[int64]receipt{}, slugs: map[int64]string{}, called: in.lib.House == in.a.House.Name}
	added := map[int64]int64{}
	for _, c := range colors {
		now.colors.add(c.ID, c.Name, c.Version)
		added[c.ID] = c.Added.UnixMilli()
	}
	for _, c := range in.lib.Colors { // nothing else has the same number since the same millisecond
		if at, there := added[c.ID]; there && at == c.Added.UnixMilli() {
			now.same = true
			break
		}
	}
	sets, err := in.tx.Sets(house)
	if err != nil {
		return err
	}
	for _, s := range sets {
		now.sets.add(s.ID, s.Name, s.Version)
		now.slugs[s.ID] = s.Slug
	}
	gradients, err := in.tx.Gradients(house)
	if err != nil {
		return err
	}
	for _, g := range gradients {
		now.gradients.add(g.ID, g.Name, g.Version)
	}
	recipients, err := in.tx.Recipients(house)
	if err != nil {
		return err
	}
	for _, to := range recipients {
		now.recipients.add(to.ID, to.Name, 0)
	}
	deliveries, err := in.tx.Deliveries(house)
	if err != nil {
		return err
	}
	for _, d := range deliveries {
		now.deliveries[d.ID] = receiptOf(d)
	}
	if now.mails, err = in.tx.Mails(house, -1); err != nil {
		return err
	}
	if now.suggestions, err = in.tx.Suggestions(house); err != nil {
		return err
	}
	if now.packed, err = in.tx.PackedFiles(house); err != nil {
		return err
	}
	now.fixed, err = in.fixed()
	return err
}

func (in *restore) fixed() (map[edition]int64, error) {
	lines, err := in.tx.EditionLines(in.a.House.ID)
	out := map[edition]int64{}
	for _, l := range lines {
		out[edition{l.SetID, l.Number}] = l.FixedAt.UnixMilli()
	}
	return out, err
}

// numbers says which number each of the n things of a file gets here, 0 for a new one. An address of before leads to the same thing: of a
// backup of this house, that is what had the number; of any other file, what has its name. Beside these a thing keeps the number that it
// has in the file where nobody has it, and nobody had it here; of a house of this name, which came from elsewhere or was made anew, that
// comes first. What is added gets new ones. taken says which numbers somebody has.
func (in *restore) numbers(was known, n int, at func(i int) (id int64, name string), taken func([]int64) (map[int64]bool, error)) ([]int64,
	error) {
	out := make([]int64, n)
	if !in.replace {
		return out, nil
	}
	var ids []int64
	for i := range n {
		if id, _ := at(i); id > 0 && in.lib.Version >= 2 {
			ids = append(ids, id)
		}
	}
	for _, id := range was.named {
		ids = append(ids, id)
	}
	gone, err := taken(ids)
	if err != nil {
		return nil, err
	}
	take := func(i int, id int64) {
		if out[i] == 0 && id > 0 && !gone[id] {
			out[i], gone[id] = id, true
		}
	}
	had := map[int64]bool{}
	for _, id := range was.named {
		had[id] = true
	}
	own := func(i int) int64 {
		id, _ := at(i)
		if in.lib.Version < 2 || had[id] && !in.before.same { // what has its name is found by that
			return 0
		}
		return id
	}
	named := func(i int) int64 {
		_, name := at(i)
		return was.named[store.NameKey(name)]
	}
	passes := []func(i int) int64{named, own}
	if in.before.same || in.before.called {
		passes = []func(i int) int64{own, named}
	}
	for _, pass := range passes {
		for i := range n {
			take(i, pass(i))
		}
	}
	return out, nil
}

// carry brings back what belongs to things that go on and is in no backup: the list of mails, packed files of editions, which stay byte for
// byte, and suggestions.
func (in *restore) carry() error {
	if !in.replace {
		return nil
	}
	house := in.a.House.ID
	deliveries, err := in.tx.Deliveries(house)
	if err != nil {
		return err
	}
	of := map[receipt]int64{}
	for _, d := range deliveries {
		of[receiptOf(d)] = d.ID
	}
	for _, m := range in.before.mails {
		if m.DeliveryID = of[in.before.deliveries[m.DeliveryID]]; m.DeliveryID == 0 {
			continue // of a recipient or an edition that is no more
		}
		if err := in.tx.Add(&m); err != nil {
			return err
		}
		in.done.Mails++
	}
	fixed, err := in.fixed()
	if err != nil {
		return err
	}
	for _, p := range in.before.packed {
		of := edition{p.SetID, p.Number}
		if at, there := fixed[of]; !there || at != in.before.fixed[of] {
			continue
		}
		if err := in.tx.Add(&p); err != nil {
			return err
		}
	}
	colors, err := in.tx.Colors(house)
	if err != nil {
		return err
	}
	there := map[int64]bool{}
	for _, c := range colors {
		there[c.ID] = true
	}
	for _, s := range in.before.suggestions {
		if !there[s.ColorID] {
			continue
		}
		if err := in.tx.Add(&s); err != nil {
			return err
		}
	}
	return nil
}

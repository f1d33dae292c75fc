// Package stations puts the rules of all stations together on one base.
package stations

import (
	"huekeep/filestore"
	"huekeep/keep"
	"huekeep/keep/accounts"
	"huekeep/keep/audits"
	"huekeep/keep/backup"
	"huekeep/keep/boards"
	"huekeep/keep/dumps"
	"huekeep/keep/example"
	"huekeep/keep/finding"
	"huekeep/keep/gathering"
	"huekeep/keep/hooks"
	"huekeep/keep/house"
	"huekeep/keep/instances"
	"huekeep/keep/jobs"
	"huekeep/keep/ledger"
	"huekeep/keep/links"
	"huekeep/keep/media"
	"huekeep/keep/once"
	"huekeep/keep/people"
	"huekeep/keep/running"
	"huekeep/keep/send"
	"huekeep/keep/trail"
	"huekeep/keep/whole"
	"huekeep/outside"
	"huekeep/store"
)

// Stations are the rules of every station.
type Stations struct {
	Base      *keep.Base
	Jobs      *jobs.Rules
	Media     *media.Rules
	Send      *send.Rules
	Ledger    *ledger.Rules
	Gathering *gathering.Rules
	Audits    *audits.Rules
	Accounts  *accounts.Rules
	People    *people.Rules
	Trail     *trail.Rules
	Backup    *backup.Rules
	Example   *example.Rules
	House     *house.Rules
	Links     *links.Rules
	Boards    *boards.Rules
	Whole     *whole.Rules
	Once      *once.Rules
	Finding   *finding.Rules
	Instances *instances.Rules
	Hooks     *hooks.Rules
	Dumps     *dumps.Rules
	Running   *running.Rules
}

// New makes the rules on a database, a place for files, and what of the world they are connected to.
func New(db *store.DB, files filestore.Store, world outside.World) *Stations {
	s := &Stations{Base: keep.NewBase(db, files)}
	s.Jobs = jobs.New(s.Base)
	s.Media = media.New(s.Base)
	s.Links = links.New(s.Base)
	s.Hooks = hooks.New(s.Base, s.Jobs)
	s.Base.After = s.Hooks.Colors
	s.Send = send.New(s.Base, s.Media, s.Links, s.Jobs, s.Hooks, world.Applications)
	s.Ledger = ledger.New(s.Base, s.Media)
	s.Gathering = gathering.New(s.Base, s.Media, world.Bench)
	s.Audits = audits.New(s.Base, s.Jobs, s.Hooks)
	s.Boards = boards.New(s.Base, s.Ledger, s.Links)
	s.Accounts = accounts.New(s.Base, s.Send)
	s.People = &people.Rules{Base: s.Base, Accounts: s.Accounts}
	s.Trail = &trail.Rules{Base: s.Base}
	s.Backup = &backup.Rules{Base: s.Base, Ledger: s.Ledger, Gathering: s.Gathering}
	s.Example = &example.Rules{Base: s.Base, Media: s.Media, Ledger: s.Ledger, Send: s.Send, Boards: s.Boards}
	s.House = &house.Rules{Base: s.Base, Media: s.Media, Accounts: s.Accounts, Example: s.Example}
	s.Audits.Letter = s.Accounts.Letter
	s.Whole = &whole.Rules{Backup: s.Backup, Audits: s.Audits}
	s.Once = once.New(s.Base)
	s.Dumps = dumps.New(s.Base, s.Jobs)
	s.Instances = instances.New(s.Base)
	s.Running = &running.Rules{Base: s.Base, Jobs: s.Jobs, Instances: s.Instances, Dumps: s.Dumps}
	s.Finding = &finding.Rules{Base: s.Base, Media: s.Media, Ledger: s.Ledger, Audits: s.Audits, Boards: s.Boards, People: s.People}
	s.Jobs.Forgets(s.Accounts.Tidy)
	s.Jobs.Forgets(s.Once.Tidy)
	s.Jobs.Forgets(s.House.Remind)
	s.Jobs.Forgets(s.House.Month)
	return s
}

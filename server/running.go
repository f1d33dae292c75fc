package server

import (
	"context"
	"sync"
	"time"

	"huekeep/api"
	"huekeep/keep"
	"huekeep/keep/running"
)

// Seen is what the doctor says of one part of what the program needs.
type Seen struct {
	Part string
	Says string // how it is
	Do   string // what to do; empty where it is well
	Must bool   // the program does not run well without
}

// errNotRunning answers those who do not run the server.
var errNotRunning = &keep.Error{Kind: keep.Forbidden,
	Message: "This is for whoever runs the server. On it, huekeep account EMAIL --runs says who that is."}

func mayRun(ctx context.Context) error {
	if !sessionOf(ctx).Account.Runs {
		return errNotRunning
	}
	return nil
}

func (s *server) GetServer(ctx context.Context, _ api.GetServerRequestObject) (api.GetServerResponseObject, error) {
	if err := mayRun(ctx); err != nil {
		return nil, err
	}
	state, err := s.Running.State(ctx)
	if err != nil {
		return nil, err
	}
	out := api.ServerState{Version: s.Instances.Version, Houses: []api.ServerHouse{}, Instances: []api.ServerInstance{}}
	for _, h := range state.Houses {
		out.Houses = append(out.Houses, api.ServerHouse{Id: h.ID, Name: h.Name, EndsAt: h.EndsAt, People: h.People, Colors: h.Colors,
			Projects: h.Projects, Stored: h.Bytes, Last: h.Last})
	}
	p := state.People
	out.People.Accounts, out.People.Bare, out.People.Sessions, out.People.Tokens = p.Accounts, p.Bare, p.Sessions, p.Tokens
	if s.Base.Room > 0 {
		out.Room = &s.Base.Room
	}
	out.Jobs.Waiting, out.Jobs.Running, out.Jobs.Failed = state.Jobs["waiting"], state.Jobs["running"], state.Jobs["failed"]
	out.Jobs.OldestWait, out.Jobs.Stalled = int(state.Oldest.Seconds()), s.Jobs.Stalled()
	out.Mails.On, out.Mails.Waiting, out.Mails.Failed, out.Mails.Oldest = s.Send.Mailer != nil, state.Mails["waiting"],
		state.Mails["failed"], state.MailSince
	for _, i := range state.Instances {
		out.Instances = append(out.Instances, api.ServerInstance{Host: i.Host, Version: i.Version, Since: i.StartedAt, Here: i.Here,
			Silent: int(i.Silent)})
	}
	out.Dumps.On, out.Dumps.Kept, out.Dumps.Nights = s.Dumps.On(), s.Dumps.Set.Kept, nights(state)
	if s.Dumps.On() {
		next := state.Next.UTC()
		out.Dumps.Next = &next
	}
	return api.GetServer200JSONResponse(out), nil
}

func nights(state running.State) []api.ServerNight {
	list := []api.ServerNight{}
	for _, n := range state.Nights {
		night := api.ServerNight{Name: n.Name, At: n.BegunAt, Seconds: int(n.EndedAt.Sub(n.BegunAt).Seconds()), Size: n.Size,
			Rows: n.RowCount, Files: n.Files, Missing: n.Missing, RestoredAt: n.TriedAt}
		if n.Problem != "" {
			night.Problem = &n.Problem
		}
		if n.Tried != "" {
			night.Restored = &n.Tried
		}
		list = append(list, night)
	}
	return list
}

// examined is what the doctor said last.
type examined struct {
	turn  sync.Mutex // the doctor writes and asks around: one at a time
	at    time.Time
	parts []api.ServerPart
}

// examinedLasts is how long the doctor's word counts.
const examinedLasts = 30 * time.Second

func (s *server) ExamineServer(ctx context.Context, _ api.ExamineServerRequestObject) (api.ExamineServerResponseObject, error) {
	if err := mayRun(ctx); err != nil {
		return nil, err
	}
	s.examined.turn.Lock()
	defer s.examined.turn.Unlock()
	if s.examined.parts == nil || time.Since(s.examined.at) > examinedLasts {
		list := []api.ServerPart{}
		if s.Examine != nil {
			for _, p := range s.Examine(ctx) {
				part := api.ServerPart{Part: p.Part, Says: p.Says, Must: p.Must}
				if p.Do != "" {
					part.Do = &p.Do
				}
				list = append(list, part)
			}
		}
		if err := ctx.Err(); err != nil { // what was given up says nothing of the parts
			return nil, err
		}
		s.examined.at, s.examined.parts = time.Now(), list
	}
	return api.ExamineServer200JSONResponse{At: s.examined.at.UTC(), Parts: s.examined.parts}, nil
}

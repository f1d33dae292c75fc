// Package running is what whoever runs the server sees of it, over all houses: how much there is and how it goes, nothing of what is in
// them.
package running

import (
	"context"
	"time"

	"huekeep/keep"
	"huekeep/keep/dumps"
	"huekeep/keep/instances"
	"huekeep/keep/jobs"
	"huekeep/store"
)

// Rules look.
type Rules struct {
	*keep.Base
	Jobs      *jobs.Rules
	Instances *instances.Rules
	Dumps     *dumps.Rules
}

// State is how the server is.
type State struct {
	Houses    []store.HouseSize
	People    store.People
	Jobs      map[string]int64 // by state
	Oldest    time.Duration    // for which one has been due that waits
	Mails     map[string]int64 // by state; of those that failed and were sent the last week's
	MailSince *time.Time       // since when the oldest waits
	Instances []Instance
	Nights    []store.Night
	Next      time.Time // when the next dump is to be made, where dumps are
}

// Instance is a program that serves on the database of this one.
type Instance struct {
	store.InstanceSeen
	Here bool // it said so lately
}

// week is how long something that failed is told of, and nights how many dumps are.
const (
	week   = 7 * 24 * time.Hour
	nights = 10
)

// State looks how the server is.
func (r *Rules) State(ctx context.Context) (s State, err error) {
	db := r.DB.With(ctx)
	if s.Houses, err = db.HouseSizes(); err != nil {
		return s, err
	}
	if s.People, err = db.CountPeople(r.Now()); err != nil {
		return s, err
	}
	if s.Jobs, err = db.JobStates(); err != nil {
		return s, err
	}
	if s.Oldest, err = r.Jobs.OldestWait(ctx); err != nil {
		return s, err
	}
	if s.Mails, s.MailSince, err = db.MailStates(r.Now().Add(-week)); err != nil {
		return s, err
	}
	if s.Instances, err = r.instances(db); err != nil {
		return s, err
	}
	if s.Nights, err = db.Nights(nights); err != nil {
		return s, err
	}
	var last *store.Night
	if len(s.Nights) > 0 {
		last = &s.Nights[0]
	}
	s.Next = r.Dumps.Next(r.Now(), last)
	return s, nil
}

func (r *Rules) instances(db *store.DB) ([]Instance, error) {
	rows, err := db.Instances()
	list := []Instance{}
	for _, row := range rows {
		list = append(list, Instance{row, row.Silent < instances.Silence.Seconds()})
	}
	return list, err
}

// Counts are what is counted for metrics.
type Counts struct {
	Houses    int
	Bytes     int64            // of stored files
	Mails     map[string]int64 // by state, as in State
	MailWait  time.Duration    // for which the oldest waits
	Versions  map[string]int   // instances that are here, by version
	Night     *store.Night     // the last dump; nil for none
	NightFail bool             // the last night has none
}

// Counts counts.
func (r *Rules) Counts(ctx context.Context) (c Counts, err error) {
	db := r.DB.With(ctx)
	houses, err := db.CountHouses()
	if err != nil {
		return c, err
	}
	c.Houses = int(houses)
	if c.Bytes, err = db.StoredBytesOfAll(); err != nil {
		return c, err
	}
	var since *time.Time
	if c.Mails, since, err = db.MailStates(r.Now().Add(-week)); err != nil {
		return c, err
	}
	if since != nil {
		c.MailWait = r.Now().Sub(*since)
	}
	list, err := r.instances(db)
	if err != nil {
		return c, err
	}
	c.Versions = map[string]int{}
	for _, i := range list {
		if i.Here {
			c.Versions[i.Version]++
		}
	}
	c.Night, c.NightFail, err = r.Dumps.Last(ctx)
	return c, err
}

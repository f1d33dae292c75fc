package stations_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"huekeep/core/library"
	"huekeep/keep"
	"huekeep/keep/gathering"
	"huekeep/keep/once"
	"huekeep/store"
)

// A request whose process was killed is taken over by the next one with its key if nothing was kept for it, and never done twice: what the
// first one still does then is not kept. If something was kept, nobody does it again.
func TestARequestThatBrokeOff(t *testing.T) {
	r := newRoom(t)
	later := func(d time.Duration) *once.Rules {
		b := *r.Base
		b.Now = func() time.Time { return r.Base.Now().Add(d) }
		return once.New(&b)
	}
	code := func(err error) string {
		ours := keep.Explain(err)
		require.NotNil(t, ours, "%v", err)
		return ours.Code
	}
	add := func(c store.Claimed, name, value string) error {
		_, err := r.Gathering.AddColor(store.WithClaim(ctx, c), r.Actor, gathering.NewCandidate{Name: name, Value: value}, gathering.Admission{})
		return err
	}
	names := func() (list []string) {
		all, err := r.Base.DB.Colors(r.Actor.House.ID)
		require.NoError(t, err)
		for _, c := range all {
			list = append(list, c.Name)
		}
		return list
	}
	q := once.Request{Key: "night-boat", What: "POST /colors", Body: "sum"}

	first, was, err := r.Once.Claim(ctx, r.Actor, q)
	require.NoError(t, err)
	require.Nil(t, was)
	_, _, err = r.Once.Claim(ctx, r.Actor, q)
	assert.Equal(t, keep.CodeBusy, code(err))
	second, was, err := later(2*time.Minute).Claim(ctx, r.Actor, q)
	require.NoError(t, err)
	require.Nil(t, was)
	assert.ErrorIs(t, add(first, "Night Boat", "#102030"), store.ErrBusy, "slow, but not killed")
	assert.Empty(t, names())
	require.NoError(t, add(second, "Night Boat", "#102030"))
	require.NoError(t, r.Once.Done(ctx, first, once.Answer{Status: 409}), "the first one gives nothing free")

	_, _, err = later(3*time.Minute).Claim(ctx, r.Actor, q)
	assert.Equal(t, keep.CodeBusy, code(err), "its answer may still come")
	_, _, err = later(time.Hour).Claim(ctx, r.Actor, q)
	assert.Equal(t, keep.CodeUncertain, code(err))
	require.NoError(t, r.Once.Done(ctx, second, once.Answer{Status: 500}), "kept, and failed then")
	_, _, err = later(time.Hour).Claim(ctx, r.Actor, q)
	assert.Equal(t, keep.CodeUncertain, code(err))
	require.NoError(t, r.Once.Done(ctx, second, once.Answer{Status: 201, MediaType: "application/json", Body: []byte(`{"path":"/p/secret"}`)}))
	_, was, err = later(time.Hour).Claim(ctx, r.Actor, q)
	require.NoError(t, err)
	assert.Equal(t, &once.Answer{Status: 201, MediaType: "application/json", Body: []byte(`{"path":"/p/secret"}`)}, was)
	assert.Equal(t, []string{"Night Boat"}, names())

	row, err := r.Base.DB.ClaimOf(r.Actor.Account, r.Actor.House.ID, keep.Digest(q.Key))
	require.NoError(t, err)
	assert.NotContains(t, *row.Answer, "secret", "whoever has the database alone does not read answers")
	r.Base.Keys.Rotate()
	r.Base.Keys.Drop()
	_, _, err = r.Once.Claim(ctx, r.Actor, q)
	assert.Equal(t, keep.CodeUncertain, code(err), "the key of its answer is gone")

	// A key is of its person and request, and is forgotten after a day.
	q.What = "POST /sets"
	_, _, err = r.Once.Claim(ctx, r.Actor, q)
	assert.Equal(t, once.CodeUsed, code(err))
	other, was, err := r.Once.Claim(ctx, r.contributor, q)
	require.NoError(t, err)
	assert.Nil(t, was)
	require.NoError(t, r.Once.Done(ctx, other, once.Answer{Status: 422}))
	_, _, err = r.Once.Claim(ctx, r.contributor, once.Request{Key: q.Key, What: q.What, Body: "corrected"})
	assert.NoError(t, err)
	require.NoError(t, r.Once.Tidy(ctx, time.Now().Add(once.Kept+time.Hour)))
	_, was, err = r.Once.Claim(ctx, r.Actor, q)
	require.NoError(t, err)
	assert.Nil(t, was)
	for _, bad := range []string{"short", "with a blank in it", "grün-grün-grün", string(make([]byte, 300))} {
		_, _, err = r.Once.Claim(ctx, r.Actor, once.Request{Key: bad})
		assert.Equal(t, keep.Invalid, keep.Explain(err).Kind, bad)
	}
}

// A color that is added in one call is what the tray would have made of it.
func TestAColorInOneCall(t *testing.T) {
	r := newRoom(t)
	c, err := r.Gathering.AddColor(ctx, r.Actor, gathering.NewCandidate{Name: "Night  Boat", Value: "C90 M70 Y40 K60"}, gathering.Admission{Group: "Hull", Role: "accent", Set: "Core"})
	require.NoError(t, err)
	assert.Equal(t, "Night Boat", c.Name)
	assert.Equal(t, library.Approved, c.Status)
	require.Len(t, c.Builds, 1)
	assert.Equal(t, "90 70 40 60", c.Builds[0].Value.String())
	assert.Equal(t, library.Deciding, c.Builds[0].Origin)
	assert.Equal(t, "CMYK 90 70 40 60 on coated", c.Decides())
	sets, err := r.Send.Sets(ctx, r.Actor)
	require.NoError(t, err)
	require.Len(t, sets, 1)
	assert.Equal(t, "Night Boat", sets[0].Members[0].Name)
	draft, err := r.Gathering.AddColor(ctx, r.contributor, gathering.NewCandidate{Value: "#E2572B", CMYK: "0 70 80 0"}, gathering.Admission{})
	require.NoError(t, err)
	assert.Equal(t, library.Draft, draft.Status)
	assert.NotEmpty(t, draft.Name, "described")
	assert.Equal(t, library.Given, draft.Builds[0].Origin, "a keeper approves")
	tray, err := r.Gathering.Tray(ctx, r.Actor)
	require.NoError(t, err)
	assert.Empty(t, tray)

	for says, n := range map[string]gathering.NewCandidate{
		"taken by Night Boat":            {Name: "night boat", Value: "#123456"},
		"has the value of":               {Value: "#E2572B"},
		"is a build, and":                {Name: "X", Value: "C90 M70 Y40 K60", CMYK: "1 2 3 4"},
		"is an ink, and":                 {Name: "X", Value: "QN-0132", Spot: "QN-0133"},
		"is a screen value, and":         {Name: "X", Value: "#123456", Screen: "#123457"},
		"could decide":                   {Name: "X", Value: "#123456", Decides: "ink"},
		"builds and inks are on a paper": {Name: "X", Value: "#123456 on coated"},
		"no press condition":             {Name: "X", Value: "C90 M70 Y40 K60 on enamel"},
		"here is no stock":               {Name: "X", Value: "QN-0132 on enamel"},
		"not in the":                     {Name: "X", Value: "#123456", Spot: "ZZ-1"},
		"% of ink in all":                {Name: "X", Value: "C100 M100 Y100 K100"},
		"is not a color value":           {Name: "X", Value: "nonsense"},
		"are those of no color":          {Name: "X", Value: "color(display-p3 9 -4 3)"},
		"holds a character that cannot ": {Name: "X\x01Y", Value: "#123456"},
	} {
		_, err := r.Gathering.AddColor(ctx, r.Actor, n, gathering.Admission{})
		if ours := keep.Explain(err); assert.NotNil(t, ours, says) {
			assert.Contains(t, ours.Message, says)
			assert.NotContains(t, []string{"colors", "items"}, ours.Field)
		}
	}
	_, err = r.Gathering.AddColor(ctx, r.contributor, gathering.NewCandidate{Name: "Y", Value: "#123456"}, gathering.Admission{Set: "Core"})
	assert.Equal(t, keep.Forbidden, keep.Explain(err).Kind)
	_, err = r.Gathering.AddColor(ctx, r.reader, gathering.NewCandidate{Name: "Y", Value: "#123456"}, gathering.Admission{})
	assert.Equal(t, keep.Forbidden, keep.Explain(err).Kind)
}

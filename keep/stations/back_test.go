package stations_test

import (
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"huekeep/core/swatchfile"
	"huekeep/filestore"
	"huekeep/keep"
	"huekeep/keep/ledger"
	"huekeep/keep/send"
	"huekeep/keep/trail"
	"huekeep/mail"
	"huekeep/standin"
)

// A house that is replaced by its own backup of before goes on: what was mailed stays in the list, links in mails lead where they led, what was
// packed stays byte for byte. It is taken back whole, as long as the day lasts.
func TestAHouseReplacedByItsOwnBackupGoesOn(t *testing.T) {
	r := newRoom(t)
	post, err := standin.StartMail("")
	require.NoError(t, err)
	defer post.Close()
	r.Send.Mailer, err = mail.New(post.Address("colors@house.example"))
	require.NoError(t, err)
	r.Send.Address = "https://colors.example"
	ids := r.admit(r.Actor, "Deep Sound #0E3A53", "Buoy #E2572B")
	set := r.makeSet(send.Content{Name: "Core", Colors: ids})
	require.NoError(t, r.Send.Fix(ctx, r.Actor, set, ""))
	ana, _, err := r.Send.AddRecipient(ctx, r.Actor, send.NewRecipient{Name: "Ana", Kind: "client", Ways: []send.Way{send.Mailed}, Email: "ana@client.example"})
	require.NoError(t, err)
	require.NoError(t, r.Send.Send(ctx, r.Actor, set, 1, []int64{ana.ID}))
	mails := func() []send.Mail {
		list, err := r.Send.Mails(ctx, r.Actor)
		require.NoError(t, err)
		return list
	}
	require.Eventually(t, func() bool { return len(mails()) == 1 && mails()[0].State == "sent" }, 20*time.Second, 20*time.Millisecond)
	letter, ok := post.Letter(mails()[0].MessageID)
	require.True(t, ok)
	_, token, _ := strings.Cut(letter.Text, "/p/")
	token, _, _ = strings.Cut(token, "\n")
	packed, err := r.Send.Pack(ctx, r.Actor, set, 1, "card-2160")
	require.NoError(t, err)
	keys := func() (list []string) {
		rows, err := r.Base.DB.PackedFiles(r.Actor.House.ID)
		require.NoError(t, err)
		for _, p := range rows {
			list = append(list, p.BlobKey)
		}
		return list
	}
	was, kept := mails(), keys()
	require.NotEmpty(t, kept)

	lib, err := r.Backup.Export(ctx, r.Actor)
	require.NoError(t, err)
	backup, err := swatchfile.WriteLibrary(lib)
	require.NoError(t, err)
	_, err = r.Ledger.Suggest(ctx, r.contributor, ids[1], ledger.NewSuggestion{Rule: "Never on Fog", Note: "Too loud"})
	require.NoError(t, err)
	sheet, err := r.Ledger.Sheet(ctx, r.Actor, ids[1])
	require.NoError(t, err)
	name := "Buoy Red"
	require.NoError(t, r.Ledger.ChangeColor(ctx, r.Actor, ids[1], ledger.Change{Version: sheet.Row.Version, Name: &name}))

	done, err := r.Backup.Restore(ctx, r.Actor, backup, true)
	require.NoError(t, err)
	assert.Equal(t, 1, done.Mails)
	assert.Equal(t, was, mails())
	assert.Equal(t, kept, keys())
	sheet, err = r.Ledger.Sheet(ctx, r.Actor, ids[1])
	require.NoError(t, err)
	assert.Equal(t, "Buoy", sheet.Row.Name, "it has its number, under the name of the backup")
	suggestions, err := r.Base.DB.Suggestions(r.Actor.House.ID)
	require.NoError(t, err)
	assert.Len(t, suggestions, 1)
	offer, err := r.Send.Offer(ctx, token)
	require.NoError(t, err, "the link of the mail leads where it led")
	assert.Equal(t, ana.ID, offer.Recipient.ID)
	again, err := r.Send.Pack(ctx, r.Actor, set, 1, "card-2160")
	require.NoError(t, err)
	assert.Equal(t, packed.Data, again.Data)

	// The sweep leaves what the way back needs, as long as it is one.
	now := time.Now()
	r.Base.Now = func() time.Time { return now.Add(3 * time.Hour) }
	_, err = r.Base.Sweep(ctx, now.Add(2*time.Hour))
	require.NoError(t, err)
	require.NoError(t, r.Backup.GoBack(ctx, r.Actor, done.Back, false))
	sheet, err = r.Ledger.Sheet(ctx, r.Actor, ids[1])
	require.NoError(t, err)
	assert.Equal(t, name, sheet.Row.Name)
	assert.Equal(t, was, mails())
	assert.Equal(t, kept, keys())

	done, err = r.Backup.Restore(ctx, r.Actor, backup, true)
	require.NoError(t, err)
	r.Base.Now = func() time.Time { return now.Add(30 * time.Hour) }
	assert.ErrorContains(t, r.Backup.GoBack(ctx, r.Actor, done.Back, true), "can be taken back for a day")
	require.NoError(t, r.Base.DB.ForgetWaysBack(now.Add(29*time.Hour)))
	_, err = r.Base.Sweep(ctx, now.Add(29*time.Hour))
	require.NoError(t, err)
	require.NoError(t, r.files.Each(ctx, func(e filestore.Entry) error {
		assert.NotContains(t, e.Key, "aside/", "it is gone with the day")
		return nil
	}))
	assert.Equal(t, kept, keys())
}

// Two colors that became one are two again, with their places in sets, gradients and editions; not over what somebody did since.
func TestAMergeIsTakenBack(t *testing.T) {
	r := newRoom(t)
	ids := r.admit(r.Actor, "Deep Sound #0E3A53", "Buoy #E2572B", "Call #E2562B")
	set := r.makeSet(send.Content{Name: "Core", Colors: ids})
	require.NoError(t, r.Send.Fix(ctx, r.Actor, set, ""))
	before, err := r.Backup.Export(ctx, r.Actor)
	require.NoError(t, err)
	version := func(id int64) int {
		s, err := r.Ledger.Sheet(ctx, r.Actor, id)
		require.NoError(t, err)
		return s.Row.Version
	}
	back, err := r.Ledger.Merge(ctx, r.Actor, ids[2], version(ids[2]), ids[1])
	require.NoError(t, err)
	assert.Equal(t, "Deep Sound Buoy", r.names(set))
	assert.Equal(t, keep.Forbidden, kindOf(r.Backup.GoBack(ctx, r.contributor, back, false)))
	require.NoError(t, r.Backup.GoBack(ctx, r.Actor, back, false))
	assert.Equal(t, "Deep Sound Buoy Call", r.names(set))
	after, err := r.Backup.Export(ctx, r.Actor)
	require.NoError(t, err)
	for i := range after.Colors {
		assert.Greater(t, after.Colors[i].Version, before.Colors[i].Version, "whoever has it open looks again")
		after.Colors[i].Version = before.Colors[i].Version
	}
	after.Sets[0].Version = before.Sets[0].Version
	assert.Equal(t, before, after)

	back, err = r.Ledger.Merge(ctx, r.Actor, ids[2], version(ids[2]), ids[1])
	require.NoError(t, err)
	step, err := r.Trail.Begin(ctx, r.Actor, "createSet", trail.Thing{})
	require.NoError(t, err)
	r.makeSet(send.Content{Name: "Other", Colors: ids[:1]})
	r.Trail.End(ctx, r.Actor, step, 201, nil, "Other")
	for _, over := range []bool{false, true} {
		assert.ErrorContains(t, r.Backup.GoBack(ctx, r.Actor, back, over), "Kim made the swatch set Other")
	}
}

package store

import (
	"context"
	"time"

	"gorm.io/gorm/clause"
)

// Claim is a request that is done once, however often it is sent: whoever claims its key does it.
type Claim struct {
	ID        int64 `gorm:"primaryKey"`
	HouseID   int64
	UserID    int64
	KeyHash   string
	Request   string
	BodyHash  string
	Owner     string
	BegunAt   time.Time
	Marks     int
	Status    int
	MediaType string
	Answer    *string
}

// Claimed is whose claim the transactions of a context belong to.
type Claimed struct {
	ID    int64
	Owner string
}

type claimKey struct{}

// WithClaim makes every transaction of a context mark a claim when it is kept. One whose claim was taken over is not kept: ErrBusy.
func WithClaim(ctx context.Context, c Claimed) context.Context {
	return context.WithValue(ctx, claimKey{}, c)
}

// WithoutClaim is a context whose transactions are not part of what was claimed.
func WithoutClaim(ctx context.Context) context.Context {
	return context.WithValue(ctx, claimKey{}, nil)
}

// marked notes, in the transaction itself, that something that was claimed is kept with it.
func (d *DB) marked(ctx context.Context) error {
	c, ok := ctx.Value(claimKey{}).(Claimed)
	if !ok {
		return nil
	}
	out := d.g.Exec("UPDATE claims SET marks = marks + 1 WHERE id = ? AND owner = ?", c.ID, c.Owner)
	if out.Error == nil && out.RowsAffected == 0 {
		return ErrBusy // somebody else does it by now
	}
	return out.Error
}

// ClaimOf is the claim of a key, locked; ErrNotFound if there is none.
func (d *DB) ClaimOf(user, house int64, keyHash string) (Claim, error) {
	return one[Claim](d.g.Clauses(clause.Locking{Strength: "UPDATE"}).Where("user_id = ? AND house_id = ? AND key_hash = ?", user, house,
		keyHash))
}

// TakeOverClaim gives a claim a new owner.
func (d *DB) TakeOverClaim(id int64, owner string, now time.Time) error {
	return d.g.Model(&Claim{}).Where("id = ?", id).Updates(map[string]any{"owner": owner, "begun_at": now}).Error
}

// AnswerClaim keeps what a claim was answered; nothing if somebody else has it by now.
func (d *DB) AnswerClaim(c Claimed, status int, mediaType string, answer *string) error {
	return d.g.Model(&Claim{}).Where("id = ? AND owner = ?", c.ID,
		c.Owner).Updates(map[string]any{"status": status, "media_type": mediaType, "answer": answer}).Error
}

// DropClaim gives a key free; with untouched, only if nothing was kept for it.
func (d *DB) DropClaim(c Claimed, untouched bool) error {
	q := d.g.Where("id = ? AND owner = ?", c.ID, c.Owner)
	if untouched {
		q = q.Where("marks = 0")
	}
	return q.Delete(&Claim{}).Error
}

// ForgetOldClaims forgets claims that were begun before a time.
func (d *DB) ForgetOldClaims(before time.Time) error {
	return d.g.Where("begun_at < ?", before).Delete(&Claim{}).Error
}

package store

import (
	"database/sql"
	"time"
)

// Hook is a program that is told of what happens in a house.
type Hook struct {
	ID        int64 `gorm:"primaryKey"`
	HouseID   int64
	Address   string
	Events    string // by space; empty for all
	Secret    string // encrypted
	PausedAt  *time.Time
	Why       string // it is paused, where nobody did that
	ByName    string
	CreatedAt time.Time
}

// What may become of a message.
const (
	HookWaiting = "waiting"
	HookTaken   = "taken"
	HookFailed  = "failed"
)

// HookMessage is what a program was told, or is going to be.
type HookMessage struct {
	ID       string `gorm:"primaryKey"`
	HookID   int64
	Event    string
	Body     string
	State    string
	Attempts int
	Status   int // of the last answer
	Answer   string
	At       time.Time
	NextAt   *time.Time
}

// HookColor is the state of a color that programs know.
type HookColor struct {
	ColorID int64 `gorm:"primaryKey;autoIncrement:false"`
	HouseID int64
	Status  string
}

// Hooks lists those of a house, oldest first.
func (d *DB) Hooks(house int64) ([]Hook, error) {
	return many[Hook](d.g.Where("house_id = ?", house).Order("id"))
}

// Hook is one of them.
func (d *DB) Hook(house, id int64) (Hook, error) {
	return one[Hook](d.g.Where("house_id = ? AND id = ?", house, id))
}

// AllHooks lists those of every house.
func (d *DB) AllHooks() ([]Hook, error) { return many[Hook](d.g.Order("id")) }

// DropHook deletes one with its messages, and with the last what programs know of colors.
func (d *DB) DropHook(house, id int64) error {
	if err := gone(d.g.Where("house_id = ? AND id = ?", house, id).Delete(&Hook{})); err != nil {
		return err
	}
	var n int64
	if err := d.g.Model(&Hook{}).Where("house_id = ?", house).Count(&n).Error; err != nil || n > 0 {
		return err
	}
	return d.g.Where("house_id = ?", house).Delete(&HookColor{}).Error
}

// PauseHook pauses one for a reason, or, without a time, ends that.
func (d *DB) PauseHook(id int64, at *time.Time, why string) error {
	return d.g.Model(&Hook{}).Where("id = ?", id).Updates(map[string]any{"paused_at": at, "why": why}).Error
}

// HookMessage is a message with the hook that it goes to, locked.
func (d *DB) HookMessage(id string) (m HookMessage, h Hook, err error) {
	if m, err = one[HookMessage](d.locked().Where("id = ?", id)); err != nil {
		return m, h, err
	}
	h, err = one[Hook](d.g.Where("id = ?", m.HookID))
	return m, h, err
}

// HookHeld is until when a message waits since one before it was not taken; nil for not at all.
func (d *DB) HookHeld(m HookMessage) (*time.Time, error) {
	var at sql.NullTime
	err := d.g.Raw("SELECT MIN(next_at) FROM hook_messages WHERE hook_id = ? AND state = ? AND attempts > 0 AND id <> ? AND (at < ? OR at = ? AND id < ?) AND next_at > ?",
		m.HookID, HookWaiting, m.ID, m.At, m.At, m.ID, time.Now().UTC()).Row().Scan(&at)
	if !at.Valid {
		return nil, known(err)
	}
	return &at.Time, known(err)
}

// HookMessages lists what a program was told, newest first.
func (d *DB) HookMessages(hook int64, most int) ([]HookMessage, error) {
	return many[HookMessage](d.g.Where("hook_id = ?", hook).Order("at DESC, id DESC").Limit(most))
}

// StuckHookMessages lists messages that should have been posted before a time, with their houses: their jobs are gone.
func (d *DB) StuckHookMessages(before time.Time) ([]StuckHookMessage, error) {
	return many[StuckHookMessage](d.g.Table("hook_messages").Select("hook_messages.id, hooks.house_id").Joins("JOIN hooks ON hooks.id = hook_messages.hook_id").
		Where("hook_messages.state = ? AND COALESCE(hook_messages.next_at, hook_messages.at) < ?", HookWaiting, before).Limit(1000))
}

// StuckHookMessage is a message that nobody posts any more.
type StuckHookMessage struct {
	ID      string
	HouseID int64
}

// WaitingHookMessages counts what waits for an answer of a program.
func (d *DB) WaitingHookMessages(hook int64) (int64, error) {
	var n int64
	err := d.g.Model(&HookMessage{}).Where("hook_id = ? AND state = ?", hook, HookWaiting).Count(&n).Error
	return n, err
}

// ForgetHookMessages deletes what came to an end before a time.
func (d *DB) ForgetHookMessages(before time.Time) error {
	return d.g.Where("at < ? AND state <> ?", before, HookWaiting).Delete(&HookMessage{}).Error
}

// ToldColor is a color whose status is not the one that programs know.
type ToldColor struct {
	ID                  int64
	Name, Hex           string
	Status, Known, Next string // Next is the name of its successor
	Successor           *int64
}

// ColorsToTell lists colors whose status is another than programs know; Known is empty for one that they do not know at all.
func (d *DB) ColorsToTell(house int64) ([]ToldColor, error) {
	var out []ToldColor
	err := d.g.Raw(`SELECT c.id, c.name, c.hex, c.status, COALESCE(h.status, '') AS known, COALESCE(s.name, '') AS next, c.successor_id AS successor
		FROM colors c LEFT JOIN hook_colors h ON h.color_id = c.id LEFT JOIN colors s ON s.id = c.successor_id
		WHERE c.house_id = ? AND (h.status IS NULL OR h.status <> c.status) ORDER BY c.id`, house).Scan(&out).Error
	return out, known(err)
}

// ColorsTold notes that programs know the status of every color of a house.
func (d *DB) ColorsTold(house int64) error {
	return d.g.Exec(`INSERT INTO hook_colors (color_id, house_id, status) SELECT id, house_id, status FROM colors WHERE house_id = ?
		ON DUPLICATE KEY UPDATE status = VALUES(status)`, house).Error
}

// SaveHookMessage notes what became of a message; of one that is gone with its hook it does nothing.
func (d *DB) SaveHookMessage(m HookMessage) error {
	return d.g.Model(&HookMessage{}).Where("id = ?", m.ID).Updates(map[string]any{"state": m.State, "attempts": m.Attempts,
		"status": m.Status, "answer": m.Answer, "next_at": m.NextAt}).Error
}

// OnTrail says whether an operation is on the trail of a house.
func (d *DB) OnTrail(house int64, what string) (bool, error) {
	var n int64
	err := d.g.Model(&Trail{}).Where("house_id = ? AND what = ?", house, what).Count(&n).Error
	return n > 0, err
}

package store

import "time"

// InstanceNews is what one instance tells the others at a time of the database's clock.
type InstanceNews struct {
	ID       int64 `gorm:"primaryKey"`
	Instance string
	At       time.Time
	News     string
}

// TableName implements GORM's naming.
func (InstanceNews) TableName() string { return "instance_news" }

// newsTime is how far back instances look, in seconds. Numbers of rows do not tell what came later, since the nodes of a cluster count by
// themselves; so what is recent is read again and whoever reads knows what they have read. Clocks of nodes may be half as far apart.
const newsTime = 20

// TellInstances adds what an instance tells the others.
func (d *DB) TellInstances(instance, news string) error {
	return known(d.g.Exec("INSERT INTO instance_news (instance, at, news) VALUES (?, "+databaseNow+", ?)", instance, news).Error)
}

// HearInstances lists what others told lately, in the order in which they did.
func (d *DB) HearInstances(but string) ([]InstanceNews, error) {
	return many[InstanceNews](d.g.Where("at > "+databaseNow+" - INTERVAL ? SECOND AND instance <> ?", newsTime, but).Order("at, id"))
}

// ForgetInstanceNews deletes what everybody has heard.
func (d *DB) ForgetInstanceNews() error {
	return known(d.g.Exec("DELETE FROM instance_news WHERE at < "+databaseNow+" - INTERVAL ? SECOND", 3*newsTime).Error)
}

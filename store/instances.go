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

// Instance is a program that serves on this database. Times are those of the database's clock.
type Instance struct {
	Name      string `gorm:"primaryKey"`
	Host      string
	Version   string
	StartedAt time.Time
	HeardAt   time.Time
}

// instanceKept is how long an instance is remembered that says nothing any more, in hours.
const instanceKept = 24

// InstanceHere says that an instance is there, and forgets those that have not been for long.
func (d *DB) InstanceHere(i Instance) error {
	err := d.g.Exec("INSERT INTO instances (name, host, version, started_at, heard_at) VALUES (?, ?, ?, "+databaseNow+", "+databaseNow+
		") ON DUPLICATE KEY UPDATE heard_at = VALUES(heard_at)", i.Name, i.Host, i.Version).Error
	if err != nil {
		return known(err)
	}
	return known(d.g.Exec("DELETE FROM instances WHERE heard_at < "+databaseNow+" - INTERVAL ? HOUR", instanceKept).Error)
}

// InstanceGone forgets an instance that stops.
func (d *DB) InstanceGone(name string) error {
	return known(d.g.Where("name = ?", name).Delete(&Instance{}).Error)
}

// InstanceSeen is an instance, and for how many seconds it has said nothing.
type InstanceSeen struct {
	Instance
	Silent float64
}

// Instances lists the instances, those that are there first.
func (d *DB) Instances() ([]InstanceSeen, error) {
	return many[InstanceSeen](d.g.Table("instances").Select("instances.*, TIMESTAMPDIFF(MICROSECOND, heard_at, " + databaseNow +
		") / 1000000 AS silent").Order("silent, started_at"))
}

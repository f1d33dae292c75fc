package store

import (
	"strings"

	"gorm.io/gorm"
)

// What is looked through when somebody looks for something in a house.

// NamedFile is a file of a project that is there.
type NamedFile struct {
	ProjectID     int64
	Project, Path string
}

// FilesNamed lists the files of a house's projects that have every word in their path, most of them, and how many more there are.
func (d *DB) FilesNamed(house int64, words []string, most int) (out []NamedFile, more int, err error) {
	q := d.g.Table("project_files f").Joins("JOIN projects p ON p.id = f.project_id").
		Where("p.house_id = ? AND p.removed = 0 AND f.dropped_at IS NULL", house)
	for _, w := range words {
		q = q.Where("f.path LIKE ?", "%"+likeSafe.Replace(w)+"%")
	}
	var all int64
	if err = q.Session(&gorm.Session{}).Count(&all).Error; err != nil || all == 0 {
		return nil, 0, err
	}
	err = q.Select("f.project_id, p.name AS project, f.path").Order("f.path").Limit(most).Find(&out).Error
	return out, int(all) - len(out), err
}

// likeSafe keeps the signs of a pattern from meaning anything.
var likeSafe = strings.NewReplacer(`\`, `\\`, "%", `\%`, "_", `\_`)

package store

import (
	"crypto/sha256"
	"encoding/hex"
	"slices"
	"time"

	"gorm.io/gorm/clause"
)

// Projects, their runs, and what is done about what they found.

// PathKey is the key of a path, which may be too long for one.
func PathKey(path string) string {
	h := sha256.Sum256([]byte(path))
	return hex.EncodeToString(h[:])
}

// ProjectNamed finds a project that is not removed.
func (d *DB) ProjectNamed(house int64, name string) (Project, error) {
	return one[Project](d.g.Where("house_id = ? AND name_key = ? AND removed = 0", house, NameKey(name)))
}

// Project reads a project, also one that is removed.
func (d *DB) Project(house, id int64) (Project, error) {
	return one[Project](d.g.Where("house_id = ? AND id = ?", house, id))
}

// Projects lists the projects of a house that are not removed, newest first: those before one, or the newest for 0; most of them.
func (d *DB) Projects(house, before int64, most int) ([]Project, error) {
	q := d.g.Where("house_id = ? AND removed = 0", house)
	if before != 0 {
		q = q.Where("id < ?", before)
	}
	return many[Project](q.Order("id DESC").Limit(most))
}

// LastRuns reads the newest run of each project of a list.
func (d *DB) LastRuns(projects []int64) (map[int64]Run, error) {
	rows, err := many[Run](d.g.Where("id IN (SELECT MAX(id) FROM runs WHERE project_id IN ? GROUP BY project_id)", append(projects, 0)))
	out := map[int64]Run{}
	for _, r := range rows {
		out[r.ProjectID] = r
	}
	return out, err
}

// LastRunsBefore gives the newest runs before one of the projects of a house that are not removed, by project.
func (d *DB) LastRunsBefore(house, run int64) (map[int64]Run, error) {
	rows, err := many[Run](d.g.Where("id IN (SELECT MAX(id) FROM runs WHERE house_id = ? AND id < ? AND project_id IN (SELECT id FROM projects WHERE house_id = ? AND removed = 0) GROUP BY project_id)", house, run, house))
	out := map[int64]Run{}
	for _, r := range rows {
		out[r.ProjectID] = r
	}
	return out, err
}

// NewestRun is the newest run of a project; ErrNotFound if it has none.
func (d *DB) NewestRun(project int64) (Run, error) {
	return one[Run](d.g.Where("project_id = ?", project).Order("id DESC"))
}

// RenameProject gives a project another name; RemoveProject and RestoreProject take it away and bring it back.
func (d *DB) RenameProject(house, id int64, name string) error {
	return gone(d.g.Model(&Project{}).Where("house_id = ? AND id = ? AND removed = 0", house,
		id).Updates(map[string]any{"name": name, "name_key": NameKey(name)}))
}

func (d *DB) RemoveProject(house, id int64) error {
	return gone(d.g.Model(&Project{}).Where("house_id = ? AND id = ? AND removed = 0", house, id).Update("removed", id))
}

func (d *DB) RestoreProject(house, id int64) error {
	return gone(d.g.Model(&Project{}).Where("house_id = ? AND id = ? AND removed <> 0", house, id).Update("removed", 0))
}

// ProjectFiles lists the files of a project, by path: those that its next run reads, and those that it names as not read.
func (d *DB) ProjectFiles(project int64) ([]ProjectFile, error) {
	return many[ProjectFile](d.g.Where("project_id = ? AND dropped_at IS NULL", project).Order("path"))
}

// ProjectFilesNamed reads the files of a project that have one of some paths.
func (d *DB) ProjectFilesNamed(project int64, paths []string) ([]ProjectFile, error) {
	keys := make([]string, len(paths))
	for i, p := range paths {
		keys[i] = PathKey(p)
	}
	return many[ProjectFile](d.g.Where("project_id = ? AND dropped_at IS NULL AND path_key IN ?", project, append(keys, "")))
}

// Sums gives the SHA-256 of stored files, by their keys.
func (d *DB) Sums(keys []string) (map[string]string, error) {
	rows, err := many[File](d.g.Select("blob_key", "sha256").Where("blob_key IN ?", append(keys, "")))
	out := map[string]string{}
	for _, f := range rows {
		out[f.BlobKey] = f.SHA256
	}
	return out, err
}

// Stirred is a house whose library moved, or in which an excuse ended, with the time of that.
type Stirred struct {
	HouseID int64
	At      time.Time
}

// StirredSince lists the houses that judge again by themselves and in which something happened that verdicts hang on since a time, with
// when it did last.
func (d *DB) StirredSince(since, now time.Time) ([]Stirred, error) {
	var out []Stirred
	err := d.g.Raw(`SELECT house_id, MAX(at) AS at FROM (
			SELECT c.house_id, e.at FROM color_events e JOIN colors c ON c.id = e.color_id WHERE e.at > ?
			UNION ALL SELECT house_id, removed_at FROM removed_colors WHERE removed_at > ?
			UNION ALL SELECT house_id, until_day + INTERVAL 1 DAY FROM excuses WHERE ended_at IS NULL AND until_day + INTERVAL 1 DAY > ? AND until_day + INTERVAL 1 DAY <= ?) s
		JOIN houses h ON h.id = s.house_id WHERE h.again AND h.ends_at IS NULL GROUP BY house_id`, since, since, since, now).Scan(&out).Error
	return out, err
}

// JudgedBefore lists the projects of a house whose newest run, and whose last look without one, was not after a time.
func (d *DB) JudgedBefore(house int64, at time.Time) ([]Project, error) {
	return many[Project](d.g.Where(`house_id = ? AND removed = 0 AND (checked_at IS NULL OR checked_at <= ?)
		AND id IN (SELECT project_id FROM runs WHERE house_id = ? GROUP BY project_id HAVING MAX(at) <= ?)`, house, at, house, at))
}

// Checked notes that a project was looked at and came out as in its newest run.
func (d *DB) Checked(project int64, at time.Time) error {
	return d.g.Model(&Project{}).Where("id = ?", project).Update("checked_at", at).Error
}

// CountProjectFiles counts the files of a project.
func (d *DB) CountProjectFiles(project int64) (int, error) {
	var n int64
	err := d.g.Model(&ProjectFile{}).Where("project_id = ? AND dropped_at IS NULL", project).Count(&n).Error
	return int(n), err
}

// PutProjectFile adds a file to a project, in place of the one with its path.
func (d *DB) PutProjectFile(f ProjectFile) error {
	f.PathKey = PathKey(f.Path)
	return d.g.Clauses(clause.OnConflict{UpdateAll: true}).Create(&f).Error
}

// DropProjectFile takes a file out of a project; RestoreProjectFile puts it back, unless another one has its path by now.
func (d *DB) DropProjectFile(project int64, path string, now time.Time) error {
	return gone(d.g.Model(&ProjectFile{}).Where("project_id = ? AND path_key = ? AND dropped_at IS NULL", project,
		PathKey(path)).Update("dropped_at", now))
}

func (d *DB) RestoreProjectFile(project int64, path string) error {
	return gone(d.g.Model(&ProjectFile{}).Where("project_id = ? AND path_key = ? AND dropped_at IS NOT NULL", project,
		PathKey(path)).Update("dropped_at", nil))
}

// ForgetDroppedFiles forgets files that were taken out of their projects before a time.
func (d *DB) ForgetDroppedFiles(before time.Time) error {
	return d.g.Where("dropped_at < ?", before).Delete(&ProjectFile{}).Error
}

// NextRun is the number of a project's next run.
func (d *DB) NextRun(project int64) (int, error) {
	var n int
	err := d.g.Model(&Run{}).Where("project_id = ?", project).Select("COALESCE(MAX(number), 0) + 1").Scan(&n).Error
	return n, err
}

// Run reads a run of a house.
func (d *DB) Run(house, id int64) (Run, error) {
	return one[Run](d.g.Where("house_id = ? AND id = ?", house, id))
}

// Runs lists the runs of a project, newest first; most of them.
func (d *DB) Runs(project int64, most int) ([]Run, error) {
	return many[Run](d.g.Where("project_id = ?", project).Order("number DESC").Limit(most))
}

// HouseRuns lists the runs of the projects of a house that are not removed, newest first; most of them.
func (d *DB) HouseRuns(house int64, most int) ([]Run, error) {
	return many[Run](d.g.Where("house_id = ? AND project_id IN (SELECT id FROM projects WHERE house_id = ? AND removed = 0)", house,
		house).Order("at DESC, id DESC").Limit(most))
}

// RunAudits lists the judged files of a run: the least on-brand first.
func (d *DB) RunAudits(run int64) ([]Audit, error) {
	return many[Audit](d.g.Omit("report").Where("run_id = ?", run).Order("score IS NULL, score, path"))
}

// DropRun removes a run with what it found.
func (d *DB) DropRun(house, id int64) error {
	return gone(d.g.Where("house_id = ? AND id = ?", house, id).Delete(&Run{}))
}

// ProjectsWith lists the projects whose newest run holds a color, newest first; most of them.
func (d *DB) ProjectsWith(house int64, hex string, most int) ([]Project, error) {
	return many[Project](d.g.Where(`house_id = ? AND removed = 0 AND id IN (
		SELECT a.project_id FROM audits a JOIN audit_colors c ON c.audit_id = a.id
		WHERE c.house_id = ? AND c.hex = ? AND a.run_id IN (SELECT MAX(id) FROM runs WHERE house_id = ? GROUP BY project_id))`, house, house, hex, house).
		Order("id DESC").Limit(most))
}

// ColorUse is a file of a project's newest run with how often it holds a color.
type ColorUse struct {
	ProjectID, AuditID  int64
	Project, Path, Kind string
	Uses                int
}

// ColorUses lists the files of all projects that hold a color, by its hex, as their newest runs tell, the most uses first; most of them.
func (d *DB) ColorUses(house int64, hex string, most int) (list []ColorUse, err error) {
	err = d.g.Table("audit_colors c").Select("a.project_id, a.id audit_id, p.name project, a.path, a.kind, SUM(c.uses) uses").
		Joins("JOIN audits a ON a.id = c.audit_id").Joins("JOIN projects p ON p.id = a.project_id AND p.removed = 0").
		Where("c.house_id = ? AND c.hex = ? AND a.run_id IN (SELECT MAX(id) FROM runs WHERE house_id = ? GROUP BY project_id)", house, hex,
			house).
		Group("a.project_id, a.id, p.name, a.path, a.kind").Order("uses DESC, a.id").Limit(most).Scan(&list).Error
	return list, err
}

// ValueUse is a file of a project's newest run that holds a value.
type ValueUse struct {
	Hex                string
	ProjectID, AuditID int64
	Project, Kind      string
	Uses               int
}

// newestRuns are the newest runs of the projects of a house that are not removed.
const newestRuns = "SELECT MAX(id) FROM runs WHERE house_id = ? AND project_id IN (SELECT id FROM projects WHERE house_id = ? AND removed = 0) GROUP BY project_id"

// ValueUses lists the files of all projects that hold one of some values, by hex, as their newest runs tell.
func (d *DB) ValueUses(house int64, hexes []string) (list []ValueUse, err error) {
	err = d.g.Table("audit_colors c").Select("c.hex, a.project_id, a.id audit_id, p.name project, a.kind, SUM(c.uses) uses").
		Joins("JOIN audits a ON a.id = c.audit_id").Joins("JOIN projects p ON p.id = a.project_id").
		Where("c.house_id = ? AND c.hex IN ? AND a.run_id IN ("+newestRuns+")", house, append(hexes, ""), house, house).
		Group("c.hex, a.project_id, a.id, p.name, a.kind").Scan(&list).Error
	return list, err
}

// ValueLeft is a value that wants a decision in the newest runs of some projects.
type ValueLeft struct {
	Hex, Verdict string
	Uses, Files  int
}

// ValuesLeft lists the values that want a decision in some projects but their pictures and videos, as their newest runs tell, the most uses
// first.
func (d *DB) ValuesLeft(house int64, projects []int64) (list []ValueLeft, err error) {
	err = d.g.Table("audit_colors c").Select("c.hex, c.verdict, SUM(c.uses) uses, COUNT(DISTINCT a.id) files").Joins("JOIN audits a ON a.id = c.audit_id").
		Where("c.verdict IN ('drifted', 'retired', 'off-brand') AND a.kind NOT IN ('picture', 'video') AND a.project_id IN ? AND a.run_id IN ("+newestRuns+")", append(projects, 0), house, house).
		Group("c.hex, c.verdict").Order("uses DESC, c.hex").Scan(&list).Error
	return list, err
}

// Remarks lists what was said about the files of a project, oldest first; most of it.
func (d *DB) Remarks(project int64, most int) ([]Remark, error) {
	list, err := many[Remark](d.g.Where("project_id = ?", project).Order("id DESC").Limit(most))
	slices.Reverse(list)
	return list, err
}

// OpenRemarks lists those that are not settled.
func (d *DB) OpenRemarks(project int64) ([]Remark, error) {
	return many[Remark](d.g.Where("project_id = ? AND settled_run = 0", project).Order("id"))
}

// RemarkIn reads a remark on a project of a house.
func (d *DB) RemarkIn(house, id int64) (Remark, error) {
	return one[Remark](d.g.Where("id = ? AND project_id IN (SELECT id FROM projects WHERE house_id = ?)", id, house))
}

// SettleRemark notes in which run it was gone; DropRemark deletes it.
func (d *DB) SettleRemark(id int64, run int, at time.Time) error {
	return d.g.Model(&Remark{}).Where("id = ?", id).Updates(map[string]any{"settled_run": run, "settled_at": at}).Error
}

func (d *DB) DropRemark(id int64) error { return gone(d.g.Where("id = ?", id).Delete(&Remark{})) }

// Excuses lists the excuses of a house, newest first: those that hold for a project where one is given, and all for 0.
func (d *DB) Excuses(house, project int64) ([]Excuse, error) {
	q := d.g.Where("house_id = ?", house)
	if project != 0 {
		q = q.Where("project_id IS NULL OR project_id = ?", project)
	}
	return many[Excuse](q.Order("id DESC"))
}

// UntoldExcuses lists the excuses in force whose last day lies between two times and of which nobody was told, of all houses that go on.
func (d *DB) UntoldExcuses(from, to time.Time) ([]Excuse, error) {
	return many[Excuse](d.g.Where("told_at IS NULL AND ended_at IS NULL AND until_day BETWEEN ? AND ? AND house_id IN (SELECT id FROM houses WHERE ends_at IS NULL)", from, to).Order("house_id, until_day, id"))
}

// Told notes that somebody was told of excuses.
func (d *DB) Told(ids []int64, now time.Time) error {
	return d.g.Model(&Excuse{}).Where("id IN ?", ids).Update("told_at", now).Error
}

// EndExcuse ends an excuse; ErrNotFound if it has ended.
func (d *DB) EndExcuse(house, id int64, by string, now time.Time) error {
	return gone(d.g.Model(&Excuse{}).Where("house_id = ? AND id = ? AND ended_at IS NULL", house,
		id).Updates(map[string]any{"ended_at": now, "ended_by": by}))
}

// Plans lists the saved plans of a house by name.
func (d *DB) Plans(house int64) ([]Plan, error) {
	return many[Plan](d.g.Where("house_id = ?", house).Order("name_key"))
}

func (d *DB) Plan(house, id int64) (Plan, error) {
	return one[Plan](d.g.Where("house_id = ? AND id = ?", house, id))
}

// SavePlan changes a plan that still has the version that the caller saw; ErrNotFound if it has not.
func (d *DB) SavePlan(p Plan) error {
	return gone(d.g.Model(&Plan{}).Where("house_id = ? AND id = ? AND version = ?", p.HouseID, p.ID, p.Version).
		Updates(map[string]any{"name": p.Name, "name_key": p.NameKey, "steps": p.Steps, "version": p.Version + 1, "by_name": p.ByName,
			"changed_at": p.ChangedAt}))
}

func (d *DB) DropPlan(house, id int64) error {
	return gone(d.g.Where("house_id = ? AND id = ?", house, id).Delete(&Plan{}))
}

// Repaint reads what repainting made.
func (d *DB) Repaint(house, id int64) (Repaint, error) {
	return one[Repaint](d.g.Where("house_id = ? AND id = ?", house, id))
}

// Repaints lists what was repainted of a project, newest first; most of them.
func (d *DB) Repaints(house, project int64, most int) ([]Repaint, error) {
	return many[Repaint](d.g.Where("house_id = ? AND project_id = ?", house, project).Order("id DESC").Limit(most))
}

// ForgetRuns deletes the runs that are older than their houses keep them, but for the last of each project, and says how many.
func (d *DB) ForgetRuns(now time.Time) (int64, error) {
	done := d.g.Exec(`DELETE r FROM runs r JOIN houses h ON h.id = r.house_id
		WHERE h.keep_days > 0 AND r.at < DATE_SUB(?, INTERVAL h.keep_days DAY)
		AND r.id NOT IN (SELECT id FROM (SELECT MAX(id) id FROM runs GROUP BY project_id) newest)`, now)
	return done.RowsAffected, done.Error
}

// ProjectStanding is how a project stands: the score of its newest run, and of the newest that was over a month old.
type ProjectStanding struct {
	Name   string
	Score  *float64
	Before *float64 `gorm:"column:before_score"`
}

// NewestRuns lists how the projects of a house stand, by name.
func (d *DB) NewestRuns(house int64) ([]ProjectStanding, error) {
	var out []ProjectStanding
	err := d.g.Raw(`SELECT p.name, n.score, o.score AS before_score FROM projects p
		LEFT JOIN runs n ON n.id = (SELECT MAX(id) FROM runs WHERE project_id = p.id)
		LEFT JOIN runs o ON o.id = (SELECT MAX(id) FROM runs WHERE project_id = p.id AND at < UTC_TIMESTAMP(3) - INTERVAL 31 DAY)
		WHERE p.house_id = ? AND p.removed = 0 ORDER BY p.name`, house).Scan(&out).Error
	return out, known(err)
}

// FormerValue is a value that a color had once.
type FormerValue struct {
	ColorID int64
	Name    string // of the color today
	Hex     string
	Set     string // with the number of the newest of its editions that has it; empty where none has
	Number  int
	Until   time.Time // when the library had it last, where no edition has it
}

// FormerValues lists what the colors of a house were that are no drafts, in editions and else in the library, in an order of its own.
func (d *DB) FormerValues(house int64) ([]FormerValue, error) {
	var out []FormerValue
	err := d.g.Raw(`SELECT c.id AS color_id, c.name, f.hex, COALESCE(s.name, '') AS `+"`set`"+`, COALESCE(f.number, 0) AS number, f.until FROM (
			SELECT e.color_id, e.hex, e.set_id, e.number, x.fixed_at AS until, ROW_NUMBER() OVER (PARTITION BY e.color_id, e.hex ORDER BY x.fixed_at DESC, e.set_id, e.number DESC) AS nth
			FROM edition_colors e JOIN editions x ON x.set_id = e.set_id AND x.number = e.number WHERE x.house_id = ?
			UNION ALL
			SELECT v.color_id, v.before_hex, NULL, NULL, MAX(v.at), 1 FROM color_events v JOIN colors k ON k.id = v.color_id WHERE k.house_id = ? AND v.before_hex <> '' AND v.before_hex <> v.after_hex
				AND NOT EXISTS (SELECT 1 FROM edition_colors o WHERE o.color_id = v.color_id AND o.hex = v.before_hex) GROUP BY v.color_id, v.before_hex
		) f JOIN colors c ON c.id = f.color_id LEFT JOIN swatch_sets s ON s.id = f.set_id
		WHERE f.nth = 1 AND c.house_id = ? AND c.status <> 'draft' AND c.hex <> f.hex ORDER BY f.until DESC, c.id, f.hex LIMIT 20000`, house, house, house).Scan(&out).Error
	return out, known(err)
}

package store

import (
	"errors"
	"time"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"
)

// Audits lists a house's audits, newest first: those before one, or the newest for 0; most of them.
func (d *DB) Audits(house, before int64, most int) ([]Audit, error) {
	q := d.g.Omit("report").Where("house_id = ?", house)
	if before != 0 {
		q = q.Where("id < ?", before)
	}
	return many[Audit](q.Order("id DESC").Limit(most))
}

// AuditsWith lists the files, newest audit first and each once, that hold a color; most of them.
func (d *DB) AuditsWith(house int64, hex string, most int) ([]string, error) {
	var names []string
	err := d.g.Model(&Audit{}).Joins("JOIN audit_colors c ON c.audit_id = audits.id").Where("c.house_id = ? AND c.hex = ?", house, hex).
		Group("audits.file_name").Order("MAX(audits.id) DESC").Limit(most).Pluck("audits.file_name", &names).Error
	return names, err
}

func (d *DB) Audit(house, id int64) (Audit, error) {
	return one[Audit](d.g.Omit("report").Where("house_id = ? AND id = ?", house, id))
}

// AddAudit writes an audit with what it found.
func (d *DB) AddAudit(a *Audit, colors []AuditColor) error {
	if err := d.Add(a); err != nil || len(colors) == 0 {
		return err
	}
	for i := range colors {
		colors[i].AuditID, colors[i].HouseID, colors[i].Position = a.ID, a.HouseID, i
	}
	return d.Add(&colors)
}

// SetBasis notes what a report hangs on.
func (d *DB) SetBasis(audit int64, basis string) error {
	return d.g.Model(&Audit{}).Where("id = ?", audit).Update("basis", basis).Error
}

// AuditColors lists what an audit found, as its report has it.
func (d *DB) AuditColors(audit int64) ([]AuditColor, error) {
	return many[AuditColor](d.g.Where("audit_id = ?", audit).Order("position"))
}

// AuditTotals counts the uses of an audit by verdict.
func (d *DB) AuditTotals(audit int64) (map[string]int, error) {
	var rows []struct {
		Verdict string
		Uses    int
	}
	err := d.g.Model(&AuditColor{}).Select("verdict, SUM(uses) uses").Where("audit_id = ?", audit).Group("verdict").Scan(&rows).Error
	out := map[string]int{}
	for _, r := range rows {
		out[r.Verdict] = r.Uses
	}
	return out, err
}

// OldReport reads an audit whose report lies in its row still, if there is one. Moved notes where it lies now.
func (d *DB) OldReport() (Audit, error) { return one[Audit](d.g.Where("report <> ''")) }

func (d *DB) Moved(audit int64, key string) error {
	return d.g.Model(&Audit{}).Where("id = ?", audit).Updates(map[string]any{"report": "", "report_key": key}).Error
}

// Files

// AddFile notes a stored file.
func (d *DB) AddFile(f File) error { return d.Add(&f) }

func (d *DB) File(key string) (File, error) { return one[File](d.g.Where("blob_key = ?", key)) }

// Unnamed lists files, stored before a time, that no audit, project, repainted file or job that has not ended names; most of them.
func (d *DB) Unnamed(before time.Time, most int) ([]string, error) {
	var keys []string
	err := d.g.Model(&File{}).Where(`added_at < ?
		AND NOT EXISTS (SELECT 1 FROM audits a WHERE a.blob_key = files.blob_key)
		AND NOT EXISTS (SELECT 1 FROM audits a WHERE a.report_key = files.blob_key)
		AND NOT EXISTS (SELECT 1 FROM project_files p WHERE p.blob_key = files.blob_key)
		AND NOT EXISTS (SELECT 1 FROM packed_files k WHERE k.blob_key = files.blob_key)
		AND NOT EXISTS (SELECT 1 FROM repaints r WHERE r.blob_key = files.blob_key)
		AND NOT EXISTS (SELECT 1 FROM repaints r WHERE r.report_key = files.blob_key)
		AND NOT EXISTS (SELECT 1 FROM way_files w WHERE w.blob_key = files.blob_key)
		AND NOT EXISTS (SELECT 1 FROM jobs j WHERE j.blob_key = files.blob_key AND j.state IN ('waiting', 'running'))`, before).
		Limit(most).Pluck("blob_key", &keys).Error
	return keys, err
}

func (d *DB) DropFile(key string) error { return d.g.Where("blob_key = ?", key).Delete(&File{}).Error }

// Jobs. Leases go by the database's clock, which all instances share.

// Job states.
const (
	JobWaiting = "waiting"
	JobRunning = "running"
	JobDone    = "done"
	JobFailed  = "failed"
	JobGivenUp = "given-up"
)

const databaseNow = "UTC_TIMESTAMP(3)"

// AddJob queues a job to be run as soon as somebody is free.
func (d *DB) AddJob(j *Job) error {
	j.State, j.RunAt = JobWaiting, j.CreatedAt
	return d.alone(func(tx *DB) error { return tx.Add(j) })
}

// Pending says whether a job of a kind waits or runs.
func (d *DB) Pending(kind string) (bool, error) {
	var n int64
	err := d.g.Model(&Job{}).Where("kind = ? AND state IN ?", kind, []string{JobWaiting, JobRunning}).Count(&n).Error
	return n > 0, err
}

// due are jobs that may be begun: those that wait, and those whose lease ran out.
const due = "state = ? AND (attempts = 0 AND run_at <= created_at OR run_at <= " + databaseNow + ") OR state = ? AND lease_until < " +
	databaseNow

// ClaimJob takes a job for a worker, of the house that has the fewest that run and among these the one that waited longest. Of no house
// this worker's instance has more than most. Call it in a transaction of its own.
func (d *DB) ClaimJob(worker string, kinds []string, lease time.Duration, most int) (Job, error) {
	// Looked for without locks first: sorting would lock every job that waits.
	const running = "(SELECT COUNT(*) FROM jobs r WHERE r.house_id = jobs.house_id AND r.state = ? AND r.lease_until >= " + databaseNow
	var ids []int64
	err := d.g.Model(&Job{}).Where("kind IN ? AND ("+due+")", kinds, JobWaiting, JobRunning).
		Where(running+" AND r.worker = ?) < ?", JobRunning, worker, most).
		Order(clause.OrderBy{Expression: gorm.Expr(running+"), run_at, id", JobRunning)}).Limit(8).Pluck("id", &ids).Error
	if err != nil {
		return Job{}, known(err)
	}
	for _, id := range ids {
		j, err := one[Job](d.g.Clauses(clause.Locking{Strength: "UPDATE", Options: "SKIP LOCKED"}).Where("id = ? AND ("+due+")", id,
			JobWaiting, JobRunning))
		if errors.Is(err, ErrNotFound) {
			continue // another worker was faster
		} else if err != nil {
			return j, err
		}
		j.State, j.Worker, j.Attempts = JobRunning, worker, j.Attempts+1
		return j, d.g.Model(&Job{}).Where("id = ?", j.ID).Updates(map[string]any{"state": j.State, "worker": worker, "attempts": j.Attempts,
			"lease_until": later(lease)}).Error
	}
	return Job{}, ErrNotFound
}

// OldestWait is how long the job has waited that is due and was not begun; 0 if none waits.
func (d *DB) OldestWait() (time.Duration, error) {
	var seconds *float64
	err := d.g.Model(&Job{}).Where("state = ? AND run_at <= "+databaseNow, JobWaiting).Select("MAX(TIMESTAMPDIFF(MICROSECOND, run_at, " +
		databaseNow + ")) / 1000000").Scan(&seconds).Error
	if err != nil || seconds == nil {
		return 0, known(err)
	}
	return time.Duration(*seconds * float64(time.Second)), nil
}

func later(after time.Duration) any {
	return gorm.Expr(databaseNow+" + INTERVAL ? MICROSECOND", after.Microseconds())
}

// RenewLease says how far a worker has come and renews its lease; ErrNotFound if the job is no longer its own or was given up.
func (d *DB) RenewLease(id int64, worker, stage string, share float64, lease time.Duration) error {
	return d.changeJob(id, worker, map[string]any{"stage": stage, "share": share, "lease_until": later(lease)})
}

// EndJob writes how a job ended; ErrNotFound if it is no longer the worker's.
func (d *DB) EndJob(id int64, worker, state, result, problem string, now time.Time) error {
	return d.changeJob(id, worker, map[string]any{"state": state, "result": result, "problem": problem, "lease_until": nil, "ended_at": now,
		"share": 1})
}

// PutBack lets a job wait again, for another try, and says why if it is not for its turn. One that was only interrupted has not been tried.
func (d *DB) PutBack(id int64, worker string, after time.Duration, interrupted bool, why string) error {
	values := map[string]any{"state": JobWaiting, "lease_until": nil, "run_at": later(after), "stage": why}
	if interrupted {
		values["attempts"] = gorm.Expr("GREATEST(0, attempts - 1)")
	}
	return d.changeJob(id, worker, values)
}

// changeJob changes a job that a worker has; ErrNotFound if it is no longer the worker's.
func (d *DB) changeJob(id int64, worker string, values map[string]any) error {
	return d.alone(func(tx *DB) error {
		return gone(tx.g.Model(&Job{}).Where("id = ? AND worker = ? AND state = ?", id, worker, JobRunning).Updates(values))
	})
}

// GiveUpJob ends a job that has not ended.
func (d *DB) GiveUpJob(house, id int64, now time.Time) error {
	return d.alone(func(tx *DB) error {
		return gone(tx.g.Model(&Job{}).Where("house_id = ? AND id = ? AND state IN ?", house, id, []string{JobWaiting, JobRunning}).
			Updates(map[string]any{"state": JobGivenUp, "lease_until": nil, "ended_at": now}))
	})
}

func (d *DB) Job(house, id int64) (Job, error) {
	return one[Job](d.g.Where("house_id = ? AND id = ?", house, id))
}

// OpenJobs lists the jobs of a house that wait or run and are not of a kind, oldest first; most of them.
func (d *DB) OpenJobs(house int64, but string, most int) ([]Job, error) {
	return many[Job](d.g.Where("house_id = ? AND state IN ? AND kind <> ?", house, []string{JobWaiting, JobRunning},
		but).Order("id").Limit(most))
}

// ForgetJobs drops jobs that ended before a time.
func (d *DB) ForgetJobs(before time.Time) error {
	return d.g.Where("ended_at < ?", before).Delete(&Job{}).Error
}

// ForgetRemoved drops colors that were removed before a time.
func (d *DB) ForgetRemoved(before time.Time) error {
	return d.g.Where("removed_at < ?", before).Delete(&RemovedColor{}).Error
}

// Links

// LinkByHash finds a link, also one that is closed or over.
func (d *DB) LinkByHash(hash string) (Link, error) {
	return one[Link](d.g.Where("token_hash = ?", hash))
}

// LinkByID reads a link of a house.
func (d *DB) LinkByID(house, id int64) (Link, error) {
	return one[Link](d.g.Where("house_id = ? AND id = ?", house, id))
}

// Links lists the links to a thing, newest first.
func (d *DB) Links(house int64, kind string, thing int64) ([]Link, error) {
	return many[Link](d.g.Where("house_id = ? AND kind = ? AND thing_id = ?", house, kind, thing).Order("id DESC"))
}

// OpenLinks lists the links of a kind that were not closed, newest first.
func (d *DB) OpenLinks(house int64, kind string) ([]Link, error) {
	return many[Link](d.g.Where("house_id = ? AND kind = ? AND revoked_at IS NULL", house, kind).Order("id DESC"))
}

// LinkUsed counts openings of a link's page and files that were fetched there.
func (d *DB) LinkUsed(id int64, opened, fetched int, at time.Time) error {
	return d.g.Model(&Link{}).Where("id = ?", id).Updates(map[string]any{"opened": gorm.Expr("opened + ?", opened),
		"fetched": gorm.Expr("fetched + ?", fetched), "last_at": at}).Error
}

// CloseLinks ends every open link of a kind to a thing.
func (d *DB) CloseLinks(house int64, kind string, thing int64, now time.Time) error {
	return d.g.Model(&Link{}).Where("house_id = ? AND kind = ? AND thing_id = ? AND revoked_at IS NULL", house, kind,
		thing).Update("revoked_at", now).Error
}

// CloseLink ends a link; one that is over already is ErrNotFound.
func (d *DB) CloseLink(house, id int64, now time.Time) error {
	return gone(d.g.Model(&Link{}).Where("house_id = ? AND id = ? AND revoked_at IS NULL", house, id).Update("revoked_at", now))
}

// Named says whether an audit, a project or a repainted file names a stored file.
func (d *DB) Named(key string) (bool, error) {
	var n int64
	for _, of := range []*gorm.DB{d.g.Model(&Audit{}).Where("blob_key = ? OR report_key = ?", key, key),
		d.g.Model(&ProjectFile{}).Where("blob_key = ?", key),
		d.g.Model(&PackedFile{}).Where("blob_key = ?", key), d.g.Model(&WayFile{}).Where("blob_key = ?", key),
		d.g.Model(&Repaint{}).Where("blob_key = ? OR report_key = ?", key, key)} {
		if err := of.Count(&n).Error; err != nil || n > 0 {
			return n > 0, err
		}
	}
	return false, nil
}

package keep

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"path"
	"strings"
	"unicode/utf8"

	"gocloud.dev/gcerrors"

	"huekeep/core/audit"
	"huekeep/core/limits"
	"huekeep/core/swatchfile"
	"huekeep/store"
)

// Audit is a judged file.
type Audit struct {
	store.Audit
	Report audit.Report
}

// AuditFile reads a project file, judges it against the library and keeps file and report.
func (k *Keeper) AuditFile(ctx context.Context, a Actor, file string, data []byte) (Audit, error) {
	if err := a.may(RoleContributor); err != nil {
		return Audit{}, err
	}
	file = path.Base(strings.ReplaceAll(file, "\\", "/"))
	if !utf8.ValidString(file) || file == "." || file == "/" || len([]rune(file)) > 200 {
		return Audit{}, invalid("file", "the file has no usable name")
	}
	if len(data) > limits.UploadBytes {
		return Audit{}, &Error{Kind: TooLarge, Field: "file", Message: fmt.Sprintf("%s has %s; at most %s are read.", file, limits.Size(int64(len(data))), limits.Size(limits.UploadBytes))}
	}
	out, err := k.judge(ctx, a, file, data)
	if err != nil {
		return out, err
	}
	out.BlobKey = fmt.Sprintf("audits/%d/%s", a.House.ID, random())
	if err := k.Files.WriteAll(ctx, out.BlobKey, data, nil); err != nil {
		return out, err
	}
	if err := k.DB.With(ctx).Add(&out.Audit); err != nil {
		_ = k.Files.Delete(context.WithoutCancel(ctx), out.BlobKey) // the row's error matters more
		return out, err
	}
	return out, nil
}

func (k *Keeper) judge(ctx context.Context, a Actor, file string, data []byte) (Audit, error) {
	scan, err := audit.Read(file, data)
	if err != nil {
		return Audit{}, &Error{Kind: Invalid, Field: "file", Message: err.Error() + "."} // begins with the file's name as it is
	}
	rules, err := k.rules(ctx, a)
	if err != nil {
		return Audit{}, err
	}
	report := audit.Judge(file, scan, rules)
	text, err := json.Marshal(report)
	if err != nil {
		return Audit{}, err
	}
	out := Audit{Report: report, Audit: store.Audit{HouseID: a.House.ID, ByName: a.Name, At: k.Now(), FileName: file, Kind: report.Kind,
		Size: int64(len(data)), Tolerance: rules.Tolerance, Uses: report.Uses, Score: report.Score}}
	for _, c := range report.Colors {
		if c.Verdict != audit.OnBrand && c.Verdict != audit.Excused {
			out.Findings += c.Count
		}
	}
	out.Audit.Report = string(text)
	return out, nil
}

// rules are what files of the house are judged by. Drafts are not allowed colors yet.
func (k *Keeper) rules(ctx context.Context, a Actor) (audit.Rules, error) {
	r := audit.Rules{Tolerance: a.House.Tolerance, Neutrals: a.House.Neutrals}
	colors, err := k.DB.With(ctx).Colors(a.House.ID)
	if err != nil {
		return r, err
	}
	names := map[int64]string{}
	for _, c := range colors {
		names[c.ID] = c.Name
	}
	for _, c := range colors {
		f := swatchfile.Color{Name: c.Name, RGB: rgbOf(c.Hex), Status: c.Status}
		if c.SuccessorID != nil {
			f.Successor = names[*c.SuccessorID]
		}
		r.Colors = append(r.Colors, f)
		if c.Status == "approved" {
			for _, m := range family(c) {
				if m.Permitted {
					r.Colors = append(r.Colors, swatchfile.Color{Name: m.called(c.Name), RGB: m.Value, Status: "approved"})
				}
			}
		}
	}
	return r, nil
}

// AuditAgain judges a kept file against the library as it is now, as a new audit.
func (k *Keeper) AuditAgain(ctx context.Context, a Actor, id int64) (Audit, error) {
	if err := a.may(RoleContributor); err != nil {
		return Audit{}, err
	}
	old, err := k.DB.With(ctx).Audit(a.House.ID, id)
	if err != nil {
		return Audit{}, missing(err, "audit")
	}
	data, err := k.Files.ReadAll(ctx, old.BlobKey)
	if gcerrors.Code(err) == gcerrors.NotFound {
		return Audit{}, conflict("", "the file %s is no longer kept; upload it again", old.FileName)
	} else if err != nil {
		return Audit{}, err
	}
	return k.AuditFile(ctx, a, old.FileName, data)
}

// Audits lists the house's audits, newest first.
func (k *Keeper) Audits(ctx context.Context, a Actor) ([]store.Audit, error) {
	return k.DB.With(ctx).Audits(a.House.ID)
}

// Audit reads a judged file.
func (k *Keeper) Audit(ctx context.Context, a Actor, id int64) (Audit, error) {
	row, err := k.DB.With(ctx).Audit(a.House.ID, id)
	if err != nil {
		return Audit{}, missing(err, "audit")
	}
	out := Audit{Audit: row}
	err = json.Unmarshal([]byte(row.Report), &out.Report)
	return out, err
}

// ReadUpload takes an uploaded file within the limit.
func ReadUpload(r io.Reader, file string) ([]byte, error) {
	data, err := io.ReadAll(io.LimitReader(r, limits.UploadBytes+1))
	if err != nil {
		if errors.Is(err, io.ErrUnexpectedEOF) {
			return nil, invalid("file", "the upload of %s was cut off", file)
		}
		return nil, err
	}
	if len(data) > limits.UploadBytes {
		return nil, &Error{Kind: TooLarge, Field: "file", Message: fmt.Sprintf("%s is larger than %s, the most that is read.", file, limits.Size(limits.UploadBytes))}
	}
	return data, nil
}

package server

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"mime"
	"net/url"
	"runtime"
	"slices"
	"strconv"
	"strings"
	"sync"

	"github.com/gofiber/fiber/v3"

	"huekeep/api"
	"huekeep/core/color"
	"huekeep/core/swatchfile"
	"huekeep/demo"
	"huekeep/keep"
	"huekeep/keep/accounts"
	"huekeep/keep/gathering"
	"huekeep/keep/ledger"
)

// Session

func (s *server) session(ctx context.Context, in accounts.SignedIn) (api.Session, error) {
	houses, err := s.Accounts.Houses(ctx, in)
	out := api.Session{Name: in.Account.Name, Email: in.Account.Email, Csrf: in.CSRF, Houses: []api.HouseMember{}}
	if in.Account.Runs {
		out.Runs = &in.Account.Runs
	}
	for _, h := range houses {
		m := api.HouseMember{Id: h.ID, Name: h.Name, Role: api.Role(h.Role), EndsAt: h.EndsAt, Marked: h.Marked, Press: h.Press,
			Stock: h.Stock}
		if h.Locked {
			m.Locked = &h.Locked
		}
		first := h.First[:]
		m.Notations = &first
		out.Houses = append(out.Houses, m)
	}
	return out, err
}

func (s *server) GetSession(ctx context.Context, _ api.GetSessionRequestObject) (api.GetSessionResponseObject, error) {
	out, err := s.session(ctx, sessionOf(ctx))
	return api.GetSession200JSONResponse(out), err
}

func (s *server) SignIn(ctx context.Context, in api.SignInRequestObject) (api.SignInResponseObject, error) {
	device, _ := ctx.Value(deviceKey).(string)
	with := accounts.Credentials{Email: in.Body.Email, Password: in.Body.Password, Code: value(in.Body.Code), Device: device}
	if in.Body.Passkey != nil {
		of, err := shown(*in.Body.Passkey)
		if err != nil {
			return nil, err
		}
		with.Passkey = &of
	}
	signed, err := s.Accounts.SignIn(ctx, with)
	if err != nil {
		return nil, err
	}
	out, err := s.session(ctx, signed)
	return api.SignIn200JSONResponse{Body: out, Headers: api.SignIn200ResponseHeaders{SetCookie: s.sessionCookie(ctx, signed)}}, err
}

func (s *server) SignOut(ctx context.Context, _ api.SignOutRequestObject) (api.SignOutResponseObject, error) {
	err := s.Accounts.SignOut(ctx, sessionOf(ctx))
	gone := cookie(isSecure(ctx), sessionCookie, "", -1)
	return api.SignOut204Response{Headers: api.SignOut204ResponseHeaders{SetCookie: &gone}}, err
}

func (s *server) ListDemoAccounts(context.Context, api.ListDemoAccountsRequestObject) (api.ListDemoAccountsResponseObject, error) {
	out := api.ListDemoAccounts200JSONResponse{}
	if s.Demo {
		for _, a := range demo.Accounts {
			out = append(out, api.DemoAccount{Name: a.Name, Email: a.Email, Password: demo.Password, Role: api.Role(a.Role)})
		}
	}
	return out, nil
}

// Gather

func (s *server) ReadText(ctx context.Context, in api.ReadTextRequestObject) (api.ReadTextResponseObject, error) {
	lines, err := s.Gathering.Read(ctx, actorOf(ctx), in.Body.Text)
	if err != nil {
		return nil, err
	}
	out := api.ReadResult{Lines: []api.ReadLine{}}
	for _, l := range lines {
		switch {
		case errors.Is(l.Err, color.ErrWords):
		case l.Err != nil:
			out.Problems++
		default:
			out.Understood++
		}
		out.Lines = append(out.Lines, readLine(l))
	}
	return api.ReadText200JSONResponse(out), nil
}

func (s *server) tray(ctx context.Context) ([]api.Candidate, error) {
	list, err := s.Gathering.Tray(ctx, actorOf(ctx))
	out := []api.Candidate{}
	for _, c := range list {
		out = append(out, candidate(c))
	}
	return out, err
}

func (s *server) GetTray(ctx context.Context, _ api.GetTrayRequestObject) (api.GetTrayResponseObject, error) {
	out, err := s.tray(ctx)
	return api.GetTray200JSONResponse(out), err
}

func (s *server) AddToTray(ctx context.Context, in api.AddToTrayRequestObject) (api.AddToTrayResponseObject, error) {
	done, err := s.Gathering.AddToTray(ctx, actorOf(ctx), in.Body.Text)
	if err != nil {
		return nil, err
	}
	out := api.AddedToTray{Added: done.Added, Problems: []api.ReadLine{}, Left: []api.ReadLine{}}
	for _, l := range done.Problems {
		out.Problems = append(out.Problems, readLine(l))
	}
	for _, l := range done.Left {
		out.Left = append(out.Left, readLine(l))
	}
	out.Tray, err = s.tray(ctx)
	return api.AddToTray201JSONResponse(out), err
}

func (s *server) ClearTray(ctx context.Context, _ api.ClearTrayRequestObject) (api.ClearTrayResponseObject, error) {
	return api.ClearTray204Response{}, s.Gathering.ClearTray(ctx, actorOf(ctx))
}

func (s *server) ChangeCandidate(ctx context.Context, in api.ChangeCandidateRequestObject) (api.ChangeCandidateResponseObject, error) {
	if err := s.Gathering.ChangeCandidate(ctx, actorOf(ctx), in.Item, gathering.CandidateChange{Name: in.Body.Name, Value: in.Body.Value,
		Decides: (*string)(in.Body.Decides)}); err != nil {
		return nil, err
	}
	out, err := s.tray(ctx)
	return api.ChangeCandidate200JSONResponse(out), err
}

func (s *server) NameCandidates(ctx context.Context, in api.NameCandidatesRequestObject) (api.NameCandidatesResponseObject, error) {
	names := map[int64]string{}
	for _, n := range in.Body.Names {
		names[n.Item] = n.Name
	}
	if err := s.Gathering.NameCandidates(ctx, actorOf(ctx), names); err != nil {
		return nil, err
	}
	out, err := s.tray(ctx)
	return api.NameCandidates200JSONResponse(out), err
}

func (s *server) RemoveCandidate(ctx context.Context, in api.RemoveCandidateRequestObject) (api.RemoveCandidateResponseObject, error) {
	return api.RemoveCandidate204Response{}, s.Gathering.RemoveCandidate(ctx, actorOf(ctx), in.Item)
}

func (s *server) Admit(ctx context.Context, in api.AdmitRequestObject) (api.AdmitResponseObject, error) {
	admission := gathering.Admission{Items: in.Body.Items, Group: text(in.Body.Group), Role: text(in.Body.Role), Set: text(in.Body.Set),
		Use: map[int64]int64{}, Amend: map[int64]gathering.Amend{}, Each: map[int64]gathering.Placing{}}
	if in.Body.Each != nil {
		for _, p := range *in.Body.Each {
			admission.Each[p.Item] = gathering.Placing{Group: p.Group, Role: p.Role}
		}
	}
	admission.Replace = in.Body.Replace != nil && *in.Body.Replace
	if in.Body.Use != nil {
		for _, u := range *in.Body.Use {
			admission.Use[u.Item] = u.Color
		}
	}
	if in.Body.Amend != nil {
		for _, m := range *in.Body.Amend {
			admission.Amend[m.Item] = gathering.Amend{Color: m.Color, Version: m.Version}
		}
	}
	done, err := s.Gathering.Admit(ctx, actorOf(ctx), admission)
	if err != nil {
		return nil, err
	}
	renewed := []api.RenewedColor{}
	var names struct{ renewed, colors []any }
	for _, c := range done.Renewed {
		names.renewed = append(names.renewed, c.Name)
		renewed = append(renewed, api.RenewedColor{Id: c.ID, Name: c.Name, Hex: c.RGB.Hex(), Was: c.Was.Hex(), Version: c.Version,
			Event: c.Event})
	}
	out := api.Admitted{Colors: []api.ColorRef{}, Renewed: &renewed, Suggested: &done.Suggested, At: &done.At}
	for _, c := range done.Colors {
		names.colors = append(names.colors, c.Name)
		out.Colors = append(out.Colors, ref(c))
	}
	tell(ctx, "admitted", names.colors)
	tell(ctx, "renewed", names.renewed)
	if done.Suggested > 0 {
		tell(ctx, "suggested", fmt.Sprintf("values of %d colors", done.Suggested))
	}
	out.Tray, err = s.tray(ctx)
	return api.Admit201JSONResponse(out), err
}

// Library

func (s *server) ListColors(ctx context.Context, _ api.ListColorsRequestObject) (api.ListColorsResponseObject, error) {
	groups, rows, err := s.Ledger.Ledger(ctx, actorOf(ctx))
	if err != nil {
		return nil, err
	}
	return ledgerAnswer{groups, rows}, nil
}

// ledgerAnswer writes an api.Ledger. A large one is what people wait for, so its rows are written on all cores.
type ledgerAnswer struct {
	groups []string
	rows   []ledger.Row
}

// VisitListColorsResponse implements the generated interface.
func (a ledgerAnswer) VisitListColorsResponse(c fiber.Ctx) error {
	n := min(runtime.GOMAXPROCS(0), 1+len(a.rows)/1000)
	parts := make([][]byte, n)
	errs := make([]error, n)
	var all sync.WaitGroup
	for i := range n {
		all.Go(func() {
			rows := []api.ColorRow{}
			for _, r := range a.rows[len(a.rows)*i/n : len(a.rows)*(i+1)/n] {
				rows = append(rows, colorRow(r))
			}
			parts[i], errs[i] = json.Marshal(rows)
			parts[i] = bytes.Trim(parts[i], "[]")
		})
	}
	all.Wait()
	groups, err := json.Marshal(nonNil(a.groups))
	if err := errors.Join(append(errs, err)...); err != nil {
		return err
	}
	c.Set("Content-Type", "application/json")
	return c.Send(slices.Concat([]byte(`{"groups":`), groups, []byte(`,"colors":[`), bytes.Join(parts, []byte(",")), []byte("]}")))
}

func (s *server) sheet(ctx context.Context, id int64, err error) (api.ColorSheet, error) {
	if err != nil {
		return api.ColorSheet{}, err
	}
	sheet, err := s.Ledger.Sheet(ctx, actorOf(ctx), id)
	return colorSheet(sheet), err
}

func (s *server) GetColor(ctx context.Context, in api.GetColorRequestObject) (api.GetColorResponseObject, error) {
	out, err := s.sheet(ctx, in.Color, nil)
	return api.GetColor200JSONResponse(out), err
}

func (s *server) ChangeColor(ctx context.Context, in api.ChangeColorRequestObject) (api.ChangeColorResponseObject, error) {
	b := in.Body
	change := ledger.Change{Version: b.Version, Name: b.Name, Value: b.Value, Role: b.Role, Group: b.Group, Rule: b.Rule,
		Successor: b.Successor,
		Lab:       b.Lab, Aliases: b.Aliases, Tags: b.Tags, Ground: b.Ground, Ratio: b.Ratio, Build: yes(b.Build), Decides: yes(b.Decides),
		KeepHex: yes(b.KeepHex)}
	if b.Status != nil {
		status := string(*b.Status)
		change.Status = &status
	}
	out, err := s.sheet(ctx, in.Color, s.Ledger.ChangeColor(ctx, actorOf(ctx), in.Color, change))
	return api.ChangeColor200JSONResponse(out), err
}

func (s *server) PreviewAmendment(ctx context.Context, in api.PreviewAmendmentRequestObject) (api.PreviewAmendmentResponseObject, error) {
	p, err := s.Ledger.Preview(ctx, actorOf(ctx), in.Color, in.Body.Value)
	if err != nil {
		return nil, err
	}
	return api.PreviewAmendment200JSONResponse(amendment(p)), nil
}

func (s *server) ApproveHex(ctx context.Context, in api.ApproveHexRequestObject) (api.ApproveHexResponseObject, error) {
	out, err := s.sheet(ctx, in.Color, s.Ledger.ApproveHex(ctx, actorOf(ctx), in.Color, in.Body.Version, text(in.Body.Value)))
	return api.ApproveHex200JSONResponse(out), err
}

func (s *server) DropHex(ctx context.Context, in api.DropHexRequestObject) (api.DropHexResponseObject, error) {
	out, err := s.sheet(ctx, in.Color, s.Ledger.DropHex(ctx, actorOf(ctx), in.Color, in.Params.Version))
	return api.DropHex200JSONResponse(out), err
}

func (s *server) ApproveBuild(ctx context.Context, in api.ApproveBuildRequestObject) (api.ApproveBuildResponseObject, error) {
	out, err := s.sheet(ctx, in.Color, s.Ledger.ApproveBuild(ctx, actorOf(ctx), in.Color, in.Body.Version, in.Press, in.Body.Value))
	return api.ApproveBuild200JSONResponse(out), err
}

func (s *server) DropBuild(ctx context.Context, in api.DropBuildRequestObject) (api.DropBuildResponseObject, error) {
	out, err := s.sheet(ctx, in.Color, s.Ledger.DropBuild(ctx, actorOf(ctx), in.Color, in.Params.Version, in.Press))
	return api.DropBuild200JSONResponse(out), err
}

func (s *server) ApproveSpot(ctx context.Context, in api.ApproveSpotRequestObject) (api.ApproveSpotResponseObject, error) {
	out, err := s.sheet(ctx, in.Color, s.Ledger.ApproveSpot(ctx, actorOf(ctx), in.Color, in.Body.Version, in.Stock, in.Body.Code))
	return api.ApproveSpot200JSONResponse(out), err
}

func (s *server) DropSpot(ctx context.Context, in api.DropSpotRequestObject) (api.DropSpotResponseObject, error) {
	out, err := s.sheet(ctx, in.Color, s.Ledger.DropSpot(ctx, actorOf(ctx), in.Color, in.Params.Version, in.Stock))
	return api.DropSpot200JSONResponse(out), err
}

func (s *server) ExportLibrary(ctx context.Context, in api.ExportLibraryRequestObject) (api.ExportLibraryResponseObject, error) {
	actor := actorOf(ctx)
	if format := text(in.Params.Format); format != "" {
		var ids []int64
		if list := text(in.Params.Colors); list != "" {
			for id := range strings.SplitSeq(list, ",") {
				n, err := strconv.ParseInt(strings.TrimSpace(id), 10, 64)
				if err != nil || n <= 0 {
					return nil, keep.Wrong("colors", "%q is not the number of a color; numbers are parted by commas", keep.Short(id, 60))
				}
				ids = append(ids, n)
			}
		}
		p, e, err := s.Ledger.ExportAs(ctx, actor, format, ids)
		if err != nil {
			return nil, err
		}
		data, err := p.Pack(e)
		if err != nil {
			return nil, err
		}
		return file{data, p.MediaType, p.FileName(e)}, nil
	}
	lib, err := s.Backup.Export(ctx, actor)
	if err != nil {
		return nil, err
	}
	data, err := swatchfile.WriteLibrary(lib)
	if err != nil {
		return nil, err
	}
	return file{data, "application/json", swatchfile.Slug(actor.House.Name) + ".json"}, nil
}

func (s *server) MergeColor(ctx context.Context, in api.MergeColorRequestObject) (api.MergeColorResponseObject, error) {
	back, err := s.Ledger.Merge(ctx, actorOf(ctx), in.Color, in.Body.Version, in.Body.Into)
	out, err := s.sheet(ctx, in.Body.Into, err)
	out.Back = &back
	return api.MergeColor200JSONResponse(out), err
}

func (s *server) SucceedColor(ctx context.Context, in api.SucceedColorRequestObject) (api.SucceedColorResponseObject, error) {
	sets, err := s.Ledger.Succeed(ctx, actorOf(ctx), in.Color, in.Body.Version)
	return api.SucceedColor200JSONResponse{Sets: nonNil(sets)}, err
}

func (s *server) Suggest(ctx context.Context, in api.SuggestRequestObject) (api.SuggestResponseObject, error) {
	b := in.Body
	a := actorOf(ctx)
	out, err := s.Ledger.Suggest(ctx, a, in.Color, ledger.NewSuggestion{Name: text(b.Name), Value: text(b.Value), Rule: text(b.Rule),
		Note: text(b.Note)})
	return api.Suggest201JSONResponse(suggestion(a, out)), err
}

func (s *server) ListSuggestions(ctx context.Context, _ api.ListSuggestionsRequestObject) (api.ListSuggestionsResponseObject, error) {
	a := actorOf(ctx)
	list, err := s.Ledger.Suggestions(ctx, a)
	out := api.ListSuggestions200JSONResponse{}
	for _, x := range list {
		out = append(out, suggestion(a, x))
	}
	return out, err
}

func (s *server) AnswerSuggestion(ctx context.Context, in api.AnswerSuggestionRequestObject) (api.AnswerSuggestionResponseObject, error) {
	return api.AnswerSuggestion204Response{}, s.Ledger.Answer(ctx, actorOf(ctx), in.Suggestion, in.Body.Take, text(in.Body.Word))
}

func suggestion(a keep.Actor, x ledger.Suggestion) api.Suggestion {
	return api.Suggestion{Id: x.ID, Color: api.ColorRef{Id: x.ColorID, Name: x.Color.Name, Hex: x.Hex}, By: x.ByName, At: x.At,
		Own: x.ByUser != nil && *x.ByUser == a.Account && a.Account != 0, Name: given(x.Name), Value: given(x.Value), Rule: given(x.Rule),
		Note: given(x.Note)}
}

// escaped is what browsers write in the name of an uploaded file in place of what would end it (HTML, multipart form data).
var escaped = strings.NewReplacer("%22", `"`, "%0D%0A", " ", "%0A", " ", "%0D", " ")

// uploadName takes the file name as it was sent; Part.FileName would cut it at slashes of either kind by system.
func uploadName(disposition string) string {
	_, params, err := mime.ParseMediaType(disposition)
	if err != nil {
		return ""
	}
	return escaped.Replace(params["filename"])
}

// attachment is the header that makes a browser save a file under a name (RFC 6266).
func attachment(name string) string {
	ascii := strings.Map(func(r rune) rune {
		if r < ' ' || r > '~' || r == '"' || r == '\\' {
			return '_'
		}
		return r
	}, name)
	return fmt.Sprintf(`attachment; filename="%s"; filename*=UTF-8''%s`, ascii, url.PathEscape(name))
}

func text(s *string) string {
	if s == nil {
		return ""
	}
	return *s
}

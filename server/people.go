package server

import (
	"bytes"
	"context"
	"encoding/json"
	"fmt"
	"strings"
	"time"

	"github.com/gofiber/fiber/v3"

	"huekeep/api"
	"huekeep/core/ink"
	"huekeep/keep"
	"huekeep/keep/accounts"
	"huekeep/keep/house"
)

// The account

func (s *server) GetAccount(ctx context.Context, _ api.GetAccountRequestObject) (api.GetAccountResponseObject, error) {
	signed := sessionOf(ctx)
	own, err := s.Accounts.Own(ctx, signed)
	if err != nil {
		return nil, err
	}
	out := api.Account{Id: own.ID, Name: own.Name, Email: own.Email, SecondFactor: own.SecondFactor, Codes: own.Codes,
		Password: own.Password, Provider: own.Provider,
		Sessions: []api.OpenSession{}, Tokens: []api.AccessToken{}, Passkeys: []api.Passkey{}}
	for _, o := range own.Sessions {
		out.Sessions = append(out.Sessions, api.OpenSession{Id: o.ID, Begun: o.CreatedAt, Seen: o.SeenAt, Address: o.Address,
			Agent: o.Agent, Here: o.ID == signed.ID})
	}
	for _, t := range own.Tokens {
		out.Tokens = append(out.Tokens, accessToken(t))
	}
	for _, k := range own.Passkeys {
		out.Passkeys = append(out.Passkeys, api.Passkey{Id: k.ID, Name: k.Name, Made: k.CreatedAt, Used: k.UsedAt})
	}
	return api.GetAccount200JSONResponse(out), nil
}

func (s *server) RenameAccount(ctx context.Context, in api.RenameAccountRequestObject) (api.RenameAccountResponseObject, error) {
	return api.RenameAccount204Response{}, s.Accounts.Rename(ctx, sessionOf(ctx), in.Body.Name)
}

func (s *server) ChangeEmail(ctx context.Context, in api.ChangeEmailRequestObject) (api.ChangeEmailResponseObject, error) {
	mailed, err := s.Accounts.ChangeAddress(ctx, sessionOf(ctx), in.Body.Email, in.Body.Password)
	return api.ChangeEmail200JSONResponse{Mailed: mailed}, err
}

func (s *server) ChangePassword(ctx context.Context, in api.ChangePasswordRequestObject) (api.ChangePasswordResponseObject, error) {
	device, err := s.Accounts.ChangePassword(ctx, sessionOf(ctx), in.Body.Old, in.Body.Password)
	if more, ok := ctx.Value(cookiesKey).(*[]string); ok && err == nil {
		*more = append(*more, cookie(isSecure(ctx), deviceCookie, device, deviceAge))
	}
	return api.ChangePassword204Response{}, err
}

func accessToken(t accounts.Token) api.AccessToken {
	return api.AccessToken{Id: t.ID, House: t.HouseID, Name: t.Name, Role: api.Role(t.Role), Purpose: api.Purpose(t.Purpose),
		Made: t.CreatedAt, Until: t.ExpiresAt, Used: t.UsedAt, From: t.UsedFrom}
}

func ceremony(c accounts.Ceremony, err error) (api.Ceremony, error) {
	if err != nil {
		return api.Ceremony{}, err
	}
	out := api.Ceremony{Ceremony: c.ID}
	text, err := json.Marshal(c.Options)
	if err != nil {
		return out, err
	}
	return out, json.Unmarshal(text, &out.Options)
}

func shown(in api.Shown) (accounts.Shown, error) {
	text, err := json.Marshal(in.Credential)
	return accounts.Shown{Ceremony: in.Ceremony, Response: text}, err
}

func (s *server) BeginPasskey(ctx context.Context, in api.BeginPasskeyRequestObject) (api.BeginPasskeyResponseObject, error) {
	out, err := ceremony(s.Accounts.BeginPasskey(ctx, sessionOf(ctx), in.Body.Password))
	return api.BeginPasskey200JSONResponse(out), err
}

func (s *server) AddPasskey(ctx context.Context, in api.AddPasskeyRequestObject) (api.AddPasskeyResponseObject, error) {
	of, err := shown(in.Body.Shown)
	if err != nil {
		return nil, err
	}
	codes, err := s.Accounts.AddPasskey(ctx, sessionOf(ctx), of.Ceremony, in.Body.Name, of.Response)
	return api.AddPasskey200JSONResponse{Codes: append([]string{}, codes...)}, err
}

func (s *server) DropPasskey(ctx context.Context, in api.DropPasskeyRequestObject) (api.DropPasskeyResponseObject, error) {
	return api.DropPasskey204Response{}, s.Accounts.DropPasskey(ctx, sessionOf(ctx), in.Passkey, in.Body.Password)
}

func (s *server) BeginPasskeySignIn(ctx context.Context, _ api.BeginPasskeySignInRequestObject) (api.BeginPasskeySignInResponseObject,
	error) {
	out, err := ceremony(s.Accounts.BeginPasskeySignIn(ctx))
	return api.BeginPasskeySignIn200JSONResponse(out), err
}

func (s *server) PasskeySignIn(ctx context.Context, in api.PasskeySignInRequestObject) (api.PasskeySignInResponseObject, error) {
	of, err := shown(in.Body.Shown)
	if err != nil {
		return nil, err
	}
	signed, err := s.Accounts.PasskeySignIn(ctx, of)
	if err != nil {
		return nil, err
	}
	out, err := s.session(ctx, signed)
	return api.PasskeySignIn200JSONResponse{Body: out,
		Headers: api.PasskeySignIn200ResponseHeaders{SetCookie: s.sessionCookie(ctx, signed)}}, err
}

func (s *server) ListHouseTokens(ctx context.Context, _ api.ListHouseTokensRequestObject) (api.ListHouseTokensResponseObject, error) {
	rows, err := s.Accounts.HouseTokens(ctx, actorOf(ctx))
	out := api.ListHouseTokens200JSONResponse{Tokens: []api.AccessToken{}}
	for _, t := range rows {
		one := accessToken(t.AccessToken)
		one.Owner = &t.Owner
		out.Tokens = append(out.Tokens, one)
	}
	return out, err
}

func (s *server) EndHouseToken(ctx context.Context, in api.EndHouseTokenRequestObject) (api.EndHouseTokenResponseObject, error) {
	return api.EndHouseToken204Response{}, s.Accounts.EndHouseToken(ctx, actorOf(ctx), in.Token)
}

func (s *server) BeginSecondFactor(ctx context.Context, in api.BeginSecondFactorRequestObject) (api.BeginSecondFactorResponseObject,
	error) {
	secret, picture, err := s.Accounts.BeginSecondFactor(ctx, sessionOf(ctx), in.Body.Password)
	return api.BeginSecondFactor200JSONResponse{Secret: secret, Picture: picture}, err
}

func (s *server) ConfirmSecondFactor(ctx context.Context, in api.ConfirmSecondFactorRequestObject) (api.ConfirmSecondFactorResponseObject,
	error) {
	codes, err := s.Accounts.ConfirmSecondFactor(ctx, sessionOf(ctx), in.Body.Code)
	return api.ConfirmSecondFactor200JSONResponse{Codes: codes}, err
}

func (s *server) EndSecondFactor(ctx context.Context, in api.EndSecondFactorRequestObject) (api.EndSecondFactorResponseObject, error) {
	return api.EndSecondFactor204Response{}, s.Accounts.EndSecondFactor(ctx, sessionOf(ctx), in.Body.Password)
}

func (s *server) EndOtherSessions(ctx context.Context, _ api.EndOtherSessionsRequestObject) (api.EndOtherSessionsResponseObject, error) {
	return api.EndOtherSessions204Response{}, s.Accounts.EndSession(ctx, sessionOf(ctx), 0)
}

func (s *server) EndSession(ctx context.Context, in api.EndSessionRequestObject) (api.EndSessionResponseObject, error) {
	return api.EndSession204Response{}, s.Accounts.EndSession(ctx, sessionOf(ctx), max(1, in.Session))
}

func (s *server) AddToken(ctx context.Context, in api.AddTokenRequestObject) (api.AddTokenResponseObject, error) {
	token, err := s.Accounts.AddToken(ctx, sessionOf(ctx), accounts.NewToken{Name: in.Body.Name, House: in.Body.House,
		Role: keep.Role(in.Body.Role), Purpose: string(in.Body.Purpose), Days: in.Body.Days})
	return api.AddToken201JSONResponse{Token: token}, err
}

func (s *server) DropToken(ctx context.Context, in api.DropTokenRequestObject) (api.DropTokenResponseObject, error) {
	return api.DropToken204Response{}, s.Accounts.DropToken(ctx, sessionOf(ctx), in.Token)
}

// Links that are good once

func (s *server) Forgotten(ctx context.Context, in api.ForgottenRequestObject) (api.ForgottenResponseObject, error) {
	return api.Forgotten204Response{}, s.Accounts.Forgotten(ctx, in.Body.Email)
}

func (s *server) GetSignIn(ctx context.Context, _ api.GetSignInRequestObject) (api.GetSignInResponseObject, error) {
	out := api.GetSignIn200JSONResponse{Mail: s.Send.Mailer != nil}
	code, err := s.Accounts.FirstCode(ctx)
	if err != nil {
		return nil, err
	}
	if first := code != ""; first {
		out.First = &first
	}
	if s.Provider != nil {
		name := s.Provider.Name
		out.Provider = &name
	}
	return out, nil
}

func (s *server) MakeFirst(ctx context.Context, in api.MakeFirstRequestObject) (api.MakeFirstResponseObject, error) {
	b := in.Body
	signed, err := s.Accounts.MakeFirst(ctx, accounts.First{Code: b.Code, Name: b.Name, Email: b.Email, Password: b.Password,
		House: b.House})
	if err != nil {
		return nil, err
	}
	out, err := s.session(ctx, signed)
	return api.MakeFirst201JSONResponse{Body: out, Headers: api.MakeFirst201ResponseHeaders{SetCookie: s.sessionCookie(ctx, signed)}}, err
}

func (s *server) LookAtTicket(ctx context.Context, in api.LookAtTicketRequestObject) (api.LookAtTicketResponseObject, error) {
	w, err := s.Accounts.Look(ctx, in.Body.Token)
	if err != nil {
		return nil, err
	}
	out := api.Welcome{Kind: api.WelcomeKind(w.Kind), Email: w.Email, By: w.By, Known: w.Known, Prove: w.Prove}
	if w.House != "" {
		role := api.Role(w.Role)
		out.House, out.Role = &w.House, &role
	}
	return api.LookAtTicket200JSONResponse(out), nil
}

func (s *server) TakeTicket(ctx context.Context, in api.TakeTicketRequestObject) (api.TakeTicketResponseObject, error) {
	answer := accounts.Answer{Token: in.Body.Token, Name: value(in.Body.Name), Password: value(in.Body.Password), Code: value(in.Body.Code)}
	if token, ok := ctx.Value(cookieKey).(string); ok {
		if as, err := s.Accounts.Session(ctx, token); err == nil {
			answer.As = as
		}
	}
	signed, err := s.Accounts.Take(ctx, answer)
	if err != nil {
		return nil, err
	}
	out := api.TakeTicket200JSONResponse{}
	if signed.Token == "" {
		return out, nil
	}
	session, err := s.session(ctx, signed)
	for _, h := range session.Houses {
		s.hub.tell(h.Id, "") // whoever looks at its people sees who came
	}
	out.Body.Session = &session
	out.Headers.SetCookie = s.sessionCookie(ctx, signed)
	return out, err
}

// The house

func (s *server) FoundHouse(ctx context.Context, in api.FoundHouseRequestObject) (api.FoundHouseResponseObject, error) {
	id, err := s.House.Found(ctx, sessionOf(ctx), in.Body.Name, value(in.Body.Example))
	return api.FoundHouse201JSONResponse{Id: id}, err
}

func (s *server) TakeBackHouse(ctx context.Context, in api.TakeBackHouseRequestObject) (api.TakeBackHouseResponseObject, error) {
	return api.TakeBackHouse204Response{}, s.House.TakeBack(ctx, sessionOf(ctx), in.Id)
}

func (s *server) GetSettings(ctx context.Context, _ api.GetSettingsRequestObject) (api.GetSettingsResponseObject, error) {
	h, err := s.House.Settings(ctx, actorOf(ctx))
	out := api.Settings{Name: h.Name, Inviters: api.SettingsInviters(h.Inviters), SecondFactor: h.SecondFactor, Notations: h.Notations[:],
		Greeting: h.Greeting, Sentence: h.Sentence, Press: h.Press, Stock: api.SettingsStock(h.Stock), Inks: &h.Inks,
		Decides: (*api.SettingsDecides)(h.Decides), Stored: &h.Stored, TrailDays: &h.TrailDays}
	if h.Room > 0 {
		out.Room = &h.Room
	}
	if err != nil {
		return nil, err
	}
	last, failed, err := s.Dumps.Last(ctx)
	out.Dumped = &api.Dumped{Nightly: s.Dumps.On(), Failed: failed}
	if last != nil {
		out.Dumped.At = &last.BegunAt
	}
	return api.GetSettings200JSONResponse(out), err
}

func (s *server) SetSettings(ctx context.Context, in api.SetSettingsRequestObject) (api.SetSettingsResponseObject, error) {
	h := house.Settings{Name: in.Body.Name, Inviters: keep.Role(in.Body.Inviters), SecondFactor: in.Body.SecondFactor,
		Greeting: in.Body.Greeting, Press: in.Body.Press, Stock: ink.Stock(in.Body.Stock), TrailDays: house.Unchanged}
	if in.Body.Inks != nil {
		h.Inks = *in.Body.Inks
	}
	h.Decides = (*string)(in.Body.Decides)
	h.Sentence = in.Body.Sentence
	if in.Body.TrailDays != nil {
		h.TrailDays = *in.Body.TrailDays
	}
	if len(in.Body.Notations) != len(h.Notations) {
		return nil, keep.Wrong("notations", "there is one notation each for hex, rgb and cmyk")
	}
	copy(h.Notations[:], in.Body.Notations)
	return api.SetSettings204Response{}, s.House.SetSettings(ctx, actorOf(ctx), sessionOf(ctx).Strong, h)
}

func (s *server) GetMark(ctx context.Context, _ api.GetMarkRequestObject) (api.GetMarkResponseObject, error) {
	m, err := s.House.Mark(ctx, actorOf(ctx))
	return api.GetMark200ImagepngResponse{Body: bytes.NewReader(m.Data), ContentLength: int64(len(m.Data))}, err
}

func (s *server) SetMark(ctx context.Context, in api.SetMarkRequestObject) (api.SetMarkResponseObject, error) {
	_, data, err := s.upload(ctx, in.Body)
	if err != nil {
		return nil, err
	}
	return api.SetMark204Response{}, s.House.SetMark(ctx, actorOf(ctx), data)
}

func (s *server) DropMark(ctx context.Context, _ api.DropMarkRequestObject) (api.DropMarkResponseObject, error) {
	return api.DropMark204Response{}, s.House.SetMark(ctx, actorOf(ctx), nil)
}

func (s *server) GiveUpHouse(ctx context.Context, in api.GiveUpHouseRequestObject) (api.GiveUpHouseResponseObject, error) {
	end, err := s.House.GiveUp(ctx, actorOf(ctx), in.Body.Name)
	return api.GiveUpHouse200JSONResponse{EndsAt: end}, err
}

func (s *server) ListPeople(ctx context.Context, _ api.ListPeopleRequestObject) (api.ListPeopleResponseObject, error) {
	a := actorOf(ctx)
	members, invited, may, err := s.People.List(ctx, a)
	out := api.People{Members: []api.HousePerson{}, Invitations: []api.Invitation{}, MayInvite: may, Mail: s.Send.Mailer != nil}
	for _, m := range members {
		p := api.HousePerson{Id: m.ID, Name: m.Name, Role: api.Role(m.Role), SecondFactor: m.SecondFactor, Seen: m.Seen,
			Self: m.ID == a.Account}
		if m.Email != "" {
			p.Email = &m.Email
		}
		out.Members = append(out.Members, p)
	}
	for _, i := range invited {
		out.Invitations = append(out.Invitations, api.Invitation{Id: i.ID, Email: i.Email, Role: api.Role(i.Role), By: i.By,
			Until: i.Until})
	}
	return api.ListPeople200JSONResponse(out), err
}

func (s *server) SetRole(ctx context.Context, in api.SetRoleRequestObject) (api.SetRoleResponseObject, error) {
	return api.SetRole204Response{}, s.People.SetRole(ctx, actorOf(ctx), in.Member, keep.Role(in.Body.Role))
}

func (s *server) EndMembership(ctx context.Context, in api.EndMembershipRequestObject) (api.EndMembershipResponseObject, error) {
	return api.EndMembership204Response{}, s.People.EndMembership(ctx, actorOf(ctx), in.Member)
}

func (s *server) Invite(ctx context.Context, in api.InviteRequestObject) (api.InviteResponseObject, error) {
	link, err := s.People.Invite(ctx, actorOf(ctx), in.Body.Email, keep.Role(in.Body.Role), in.Body.Mail)
	out := api.Invite201JSONResponse{}
	if link != "" {
		out.Link = &link
	}
	return out, err
}

func (s *server) Uninvite(ctx context.Context, in api.UninviteRequestObject) (api.UninviteResponseObject, error) {
	return api.Uninvite204Response{}, s.People.Uninvite(ctx, actorOf(ctx), in.Invitation)
}

// Cookies. Over TLS their names begin with __Host-, so that no other host of the domain can set them (RFC 6265bis).

const (
	sessionCookie = "huekeep_session"
	deviceCookie  = "huekeep_device"
	deviceAge     = 365 * 24 * time.Hour
)

const cookieKey contextKey = 200 // the session's token, where an operation is open to all

func cookieName(secure bool, name string) string {
	if secure {
		return "__Host-" + name
	}
	return name
}

// cookie writes a cookie; a negative age takes it away.
func cookie(secure bool, name, token string, age time.Duration) string {
	parts := []string{cookieName(secure, name) + "=" + token, "Path=/", "HttpOnly", "SameSite=Lax",
		fmt.Sprintf("Max-Age=%d", int(age.Seconds()))}
	if secure {
		parts = append(parts, "Secure")
	}
	return strings.Join(parts, "; ")
}

// sessionCookie writes the session's cookie, and lets the one of the browser be set where it is new.
func (s *server) sessionCookie(ctx context.Context, signed accounts.SignedIn) *string {
	if more, ok := ctx.Value(cookiesKey).(*[]string); ok && signed.Device != "" {
		*more = append(*more, cookie(isSecure(ctx), deviceCookie, signed.Device, deviceAge))
	}
	v := cookie(isSecure(ctx), sessionCookie, signed.Token, s.Accounts.Life)
	return &v
}

func cookieOf(c fiber.Ctx, name string) string {
	return c.Cookies(cookieName(isSecure(c.Context()), name))
}

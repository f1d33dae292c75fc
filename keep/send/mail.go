package send

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"huekeep/core/library"
	"huekeep/core/limits"
	"huekeep/core/swatchfile"
	"huekeep/keep"
	"huekeep/keep/jobs"
	"huekeep/store"
)

// Mailer hands a message to a mail server.
type Mailer interface {
	// Mail delivers a message or says why not; ErrRefused marks what it is no use trying again.
	Mail(ctx context.Context, m Message) error
}

// ErrRefused marks a message that the mail server refuses for good.
var ErrRefused = errors.New("refused")

// Message is a mail.
type Message struct {
	ID      string // without angle brackets
	To      string
	Subject string
	Text    string
	HTML    string // in which "cid:swatches" is the picture
	Picture []byte // PNG
}

// mailJob is the kind of job that mails.
const mailJob = "mail"

// mostAttempts is how often a mail is tried; each time takes twice as long to come as the one before.
const mostAttempts = 8

// HurryMail shortens the time until a mail is tried again; for tests.
func (r *Rules) HurryMail(d time.Duration) { r.retry = d }

// queue puts a notice of an edition on its way.
func (r *Rules) queue(ctx context.Context, a keep.Actor, e library.Edition, to store.Recipient, d store.Delivery) error {
	m := store.Mail{HouseID: a.House.ID, RecipientID: to.ID, SetID: d.SetID, Number: d.Number, DeliveryID: d.ID, Address: to.Email,
		Subject: keep.Short(e.Title(), 240),
		State:   store.MailWaiting, ByName: a.Name, CreatedAt: r.Now()}
	again, err := r.DB.With(ctx).WasMailed(to.ID, d.SetID, d.Number)
	if err != nil {
		return err
	}
	if again {
		m.Subject = keep.Short("Reminder: "+e.Title(), 240)
	}
	if err := r.DB.With(ctx).Add(&m); err != nil {
		return err
	}
	a.Account = 0 // the house mails, also when whoever asked for it has left meanwhile
	_, err = r.Jobs.Add(ctx, a, mailJob, m.ID, "")
	return err
}

// mail sends one mail, or puts it off. The link in it is opened when it leaves, so that its secret is kept nowhere.
func (r *Rules) mail(ctx context.Context, w jobs.Work) error {
	var id int64
	if err := json.Unmarshal([]byte(w.Payload), &id); err != nil {
		return err
	}
	a := w.Actor
	var m store.Mail
	err := r.DB.In(ctx, func(tx *store.DB) (err error) {
		if m, err = tx.Mail(id); err != nil || m.State != store.MailWaiting {
			return err
		}
		m.Attempts++
		return tx.Save(&m)
	})
	if err != nil {
		return err
	}
	if m.State != store.MailWaiting {
		return w.Finish(r.DB.With(ctx), "")
	}
	problem := r.leave(ctx, a, &m)
	now := r.Now()
	again := false
	switch {
	case problem == nil:
		m.State, m.SentAt, m.Problem = store.MailSent, &now, ""
	default:
		m.Problem = keep.Short(keep.Sentence(problem.Error()), 1000)
		if again = !errors.Is(problem, ErrRefused) && m.Attempts < mostAttempts; !again {
			m.State = store.MailFailed
		}
	}
	return r.DB.In(ctx, func(tx *store.DB) error {
		if err := tx.Save(&m); err != nil {
			return err
		}
		said := map[string]string{store.MailSent: fmt.Sprintf("A notice was mailed to %s.", m.Address),
			store.MailFailed:  fmt.Sprintf("The notice to %s could not be mailed: %s", m.Address, m.Problem),
			store.MailWaiting: fmt.Sprintf("The notice to %s is tried again: %s", m.Address, m.Problem)}[m.State]
		if err := tx.Answer(m.DeliveryID, said, m.State == store.MailFailed, now); err != nil {
			return err
		}
		if again {
			if err := r.Jobs.Later(tx, a, mailJob, m.ID, r.retry<<(m.Attempts-1)); err != nil {
				return err
			}
		}
		return w.Finish(tx, "")
	})
}

// leave writes a mail and hands it to the mail server.
func (r *Rules) leave(ctx context.Context, a keep.Actor, m *store.Mail) error {
	if r.Mailer == nil {
		return errors.New("no mail server is set up (HUEKEEP_SMTP)")
	}
	e, err := r.Edition(ctx, a, m.SetID, m.Number)
	if err != nil {
		return err
	}
	to, err := r.DB.With(ctx).Recipient(a.House.ID, m.RecipientID)
	if err != nil {
		return fmt.Errorf("%w: the recipient was removed", ErrRefused)
	}
	h, err := r.DB.With(ctx).House(a.House.ID)
	if err != nil {
		return err
	}
	token, link, err := r.Links.Open(ctx, a, keep.PickupLink, m.RecipientID, nil, "")
	if err != nil {
		return err
	}
	notes, err := r.Notes(ctx, a)
	if err != nil {
		return err
	}
	message, err := notice(e, h.Greeting, r.Address+"/p/"+token, recipient(to).Packings, notes)
	if err == nil {
		m.MessageID = fmt.Sprintf("%d.%s@huekeep", m.ID, keep.Random()[:12])
		message.ID, message.To = m.MessageID, m.Address
		err = r.Mailer.Mail(ctx, message)
	}
	if err != nil { // nobody has seen the link
		if closing := r.Links.Close(ctx, a, link.ID); closing != nil {
			return errors.Join(err, closing)
		}
	}
	return err
}

// notice writes what a recipient is told of an edition, after what the house says first.
func notice(e library.Edition, greeting, address string, packings []string, notes []Note) (Message, error) {
	picture, err := swatchfile.WritePicture(e)
	if err != nil {
		return Message{}, err
	}
	var text, html strings.Builder
	if greeting != "" {
		fmt.Fprintf(&text, "%s\n\n", greeting)
		fmt.Fprintf(&html, "<p>%s</p>\n", escapeHTML(greeting))
	}
	fmt.Fprintf(&text, "%s has fixed edition %d of %s for you.\n", e.House, e.Number, e.Set)
	fmt.Fprintf(&html, "<p>%s has fixed edition %d of %s for you.</p>\n", escapeHTML(e.House), e.Number, escapeHTML(e.Set))
	if e.Note != "" {
		fmt.Fprintf(&text, "\n%s\n", e.Note)
		fmt.Fprintf(&html, "<p>%s</p>\n", escapeHTML(e.Note))
	}
	fmt.Fprintf(&text, "\nThe files, always the current ones:\n%s\n\n", address)
	fmt.Fprintf(&html, "<p><a href=\"%s\">Fetch the files</a>; this address always has the current ones.</p>\n<p><img src=\"cid:swatches\" alt=\"The colors of the edition\" width=\"600\"></p>\n<table>\n", escapeHTML(address))
	for i, c := range e.Colors {
		if i == limits.Page {
			fmt.Fprintf(&text, "and %d more\n", len(e.Colors)-i)
			break
		}
		fmt.Fprintf(&text, "%-30s %s   %3d %3d %3d\n", c.Name, c.RGB.Hex(), c.RGB.R, c.RGB.G, c.RGB.B)
		fmt.Fprintf(&html, "<tr><td>%s</td><td>%s</td><td>%d %d %d</td></tr>\n", escapeHTML(c.Name), c.RGB.Hex(), c.RGB.R, c.RGB.G, c.RGB.B)
	}
	html.WriteString("</table>\n")
	for _, n := range notes { // how what they take is loaded: in the house's words, else in those for everybody
		var labels []string
		for _, name := range packings {
			if p, err := swatchfile.FindPacking(name); err == nil && slices.Contains(n.Packings, p.Name) {
				labels = append(labels, p.Label)
			}
		}
		if len(labels) == 0 {
			continue
		}
		lines := n.Lines()
		if lines == nil {
			lines = n.Do
		}
		fmt.Fprintf(&text, "\n%s:\n", strings.Join(labels, ", "))
		fmt.Fprintf(&html, "<p><b>%s</b></p>\n<ul>\n", escapeHTML(strings.Join(labels, ", ")))
		for _, line := range append(slices.Clone(lines), "When it worked: "+n.Worked) {
			fmt.Fprintf(&text, "- %s\n", line)
			fmt.Fprintf(&html, "<li>%s</li>\n", escapeHTML(line))
		}
		if n.Picture {
			fmt.Fprintf(&text, "- Where it goes, as a picture: %s/loading/%s\n", address, n.Key)
			fmt.Fprintf(&html, "<li><a href=\"%s/loading/%s\">Where it goes, as a picture</a></li>\n", escapeHTML(address), n.Key)
		}
		html.WriteString("</ul>\n")
	}
	html.WriteString("<p>When the colors are loaded, press “It worked, thanks” on that page; when they are not, “It did not work” at the file.</p>\n")
	text.WriteString("\nWhen the colors are loaded, press \"It worked, thanks\" on that page; when they are not, \"It did not work\" at the file.\n")
	return Message{Subject: e.Title(), Text: text.String(), HTML: html.String(), Picture: picture}, nil
}

var escapeHTML = strings.NewReplacer("&", "&amp;", "<", "&lt;", ">", "&gt;", `"`, "&quot;").Replace

// Mail is a notice that was mailed, or is on its way.
type Mail struct {
	ID, Recipient int64
	To, Subject   string
	MessageID     string
	State         string // waiting, sent or failed
	Attempts      int
	Problem       string
	At            time.Time // when it left, or was written
}

// Mails lists what the house mailed, newest first.
func (r *Rules) Mails(ctx context.Context, a keep.Actor) ([]Mail, error) {
	if err := a.May(keep.RoleKeeper); err != nil {
		return nil, err
	}
	rows, err := r.DB.With(ctx).Mails(a.House.ID, limits.Page)
	out := []Mail{}
	for _, m := range rows {
		to := Mail{m.ID, m.RecipientID, m.Address, m.Subject, m.MessageID, m.State, m.Attempts, m.Problem, m.CreatedAt}
		if m.SentAt != nil {
			to.At = *m.SentAt
		}
		out = append(out, to)
	}
	return out, err
}

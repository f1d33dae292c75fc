package standin

import (
	"bytes"
	"encoding/base64"
	"errors"
	"fmt"
	"io"
	"mime"
	"mime/multipart"
	"mime/quotedprintable"
	"net"
	"net/mail"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"sync"
	"time"

	"github.com/emersion/go-smtp"

	"huekeep/outside"
)

// MailServer stands in for a mail server: it takes what is mailed to it and keeps it in an outbox. It refuses addresses that begin with
// "refused" for good, those that begin with "busy" the first two times, and says nothing any more to those that begin with "silent".
type MailServer struct {
	server *smtp.Server
	listen net.Listener
	folder string // where mails are kept, as RFC 5322 messages; empty for memory alone

	mutex sync.Mutex
	mails []outside.Letter
	busy  map[string]int
}

// StartMail starts a mail server on a free port of this machine. Mails that a folder has from before are in the outbox.
func StartMail(folder string) (*MailServer, error) {
	l, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		return nil, err
	}
	m := &MailServer{listen: l, folder: folder, busy: map[string]int{}}
	if folder != "" {
		if err := m.load(); err != nil {
			return nil, errors.Join(err, l.Close())
		}
	}
	m.server = smtp.NewServer(smtp.BackendFunc(func(*smtp.Conn) (smtp.Session, error) { return &session{m: m}, nil }))
	m.server.Domain = "localhost"
	m.server.MaxMessageBytes = 16 << 20
	m.server.ErrorLog = quiet{}
	go func() { _ = m.server.Serve(l) }() // it ends when it is closed
	return m, nil
}

type quiet struct{}

func (quiet) Printf(string, ...any) {}
func (quiet) Println(...any)        {}

// Address is where the server is, as HUEKEEP_SMTP has it.
func (m *MailServer) Address(from string) string {
	return fmt.Sprintf("smtp://%s?from=%s", m.listen.Addr(), from)
}

// Close stops the server.
func (m *MailServer) Close() error { return m.server.Close() }

// Outbox lists what was mailed, newest first.
func (m *MailServer) Outbox() []outside.Letter {
	m.mutex.Lock()
	defer m.mutex.Unlock()
	out := slices.Clone(m.mails)
	slices.Reverse(out)
	return out
}

// Await waits for the newest mail to somebody with a text in its subject, up to ten seconds.
func (m *MailServer) Await(to, subject string) (outside.Letter, bool) {
	for end := time.Now().Add(10 * time.Second); ; time.Sleep(10 * time.Millisecond) {
		for _, l := range m.Outbox() {
			if l.To == to && strings.Contains(l.Subject, subject) {
				return l, true
			}
		}
		if time.Now().After(end) {
			return outside.Letter{}, false
		}
	}
}

// Letter finds a mail by the id of its message.
func (m *MailServer) Letter(id string) (outside.Letter, bool) {
	m.mutex.Lock()
	defer m.mutex.Unlock()
	at := slices.IndexFunc(m.mails, func(l outside.Letter) bool { return l.ID == id })
	if at < 0 {
		return outside.Letter{}, false
	}
	return m.mails[at], true
}

func (m *MailServer) load() error {
	if err := os.MkdirAll(m.folder, 0o700); err != nil {
		return err
	}
	files, err := filepath.Glob(filepath.Join(m.folder, "*.eml"))
	if err != nil {
		return err
	}
	slices.Sort(files)
	for _, f := range files {
		data, err := os.ReadFile(f)
		if err != nil {
			return err
		}
		if l, err := letter(data); err == nil {
			m.mails = append(m.mails, l)
		}
	}
	return nil
}

// session is one connection.
type session struct {
	m        *MailServer
	from, to string
}

func (s *session) Mail(from string, _ *smtp.MailOptions) error { s.from = from; return nil }

func (s *session) Rcpt(to string, _ *smtp.RcptOptions) error {
	s.to = to
	switch {
	case strings.HasPrefix(to, "refused"):
		return &smtp.SMTPError{Code: 550, EnhancedCode: smtp.EnhancedCode{5, 1, 1}, Message: "there is no such mailbox"}
	case strings.HasPrefix(to, "silent"):
		time.Sleep(time.Minute)
	case strings.HasPrefix(to, "busy"):
		s.m.mutex.Lock()
		defer s.m.mutex.Unlock()
		if s.m.busy[to]++; s.m.busy[to] <= 2 {
			return &smtp.SMTPError{Code: 451, EnhancedCode: smtp.EnhancedCode{4, 3, 2}, Message: "too busy, come back later"}
		}
	}
	return nil
}

func (s *session) Data(r io.Reader) error {
	data, err := io.ReadAll(r)
	if err != nil {
		return err
	}
	l, err := letter(data)
	if err != nil {
		return &smtp.SMTPError{Code: 554, EnhancedCode: smtp.EnhancedCode{5, 6, 0}, Message: "the message cannot be read"}
	}
	s.m.mutex.Lock()
	defer s.m.mutex.Unlock()
	s.m.mails = append(s.m.mails, l)
	if s.m.folder == "" {
		return nil
	}
	return os.WriteFile(filepath.Join(s.m.folder, fmt.Sprintf("%06d.eml", len(s.m.mails))), data, 0o600)
}

func (s *session) Reset()        {}
func (s *session) Logout() error { return nil }

// letter reads a message (RFC 5322) with the parts that matter: text, page and picture.
func letter(data []byte) (outside.Letter, error) {
	msg, err := mail.ReadMessage(bytes.NewReader(data))
	if err != nil {
		return outside.Letter{}, err
	}
	words := mime.WordDecoder{}
	subject, err := words.DecodeHeader(msg.Header.Get("Subject"))
	if err != nil {
		return outside.Letter{}, err
	}
	l := outside.Letter{ID: strings.Trim(msg.Header.Get("Message-ID"), "<>"), From: msg.Header.Get("From"),
		To: strings.Trim(msg.Header.Get("To"), "<>"), Subject: subject}
	if l.At, err = msg.Header.Date(); err != nil {
		return l, err
	}
	return l, part(&l, msg.Header.Get("Content-Type"), msg.Header.Get("Content-Transfer-Encoding"), msg.Body)
}

func part(l *outside.Letter, kind, encoding string, body io.Reader) error {
	media, params, err := mime.ParseMediaType(kind)
	if err != nil {
		return err
	}
	if strings.HasPrefix(media, "multipart/") {
		parts := multipart.NewReader(body, params["boundary"])
		for {
			p, err := parts.NextRawPart()
			if errors.Is(err, io.EOF) {
				return nil
			}
			if err != nil {
				return err
			}
			if err := part(l, p.Header.Get("Content-Type"), p.Header.Get("Content-Transfer-Encoding"), p); err != nil {
				return err
			}
		}
	}
	switch strings.ToLower(encoding) {
	case "quoted-printable":
		body = quotedprintable.NewReader(body)
	case "base64":
		body = base64.NewDecoder(base64.StdEncoding, body)
	}
	data, err := io.ReadAll(body)
	if err != nil {
		return err
	}
	switch media {
	case "text/plain":
		l.Text = strings.ReplaceAll(string(data), "\r\n", "\n")
	case "text/html":
		l.HTML = string(data)
	case "image/png":
		l.Picture = data
	}
	return nil
}

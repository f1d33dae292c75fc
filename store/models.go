// Package store keeps everything in MariaDB through GORM. The migrations are the schema; the models follow them, and a
// test proves that they are equal.
package store

import (
	"strings"
	"time"

	"golang.org/x/text/unicode/norm"
)

type User struct {
	ID           int64 `gorm:"primaryKey"`
	Email        string
	Name         string
	PasswordHash string // empty where only the sign-in provider lets them in
	CreatedAt    time.Time
	Totp         string     // secret of the second factor, encrypted (keep/secrets.go); empty for none
	TotpNew      string     // the same before it is confirmed with a code
	TotpStep     int64      // the last step of time whose code was taken
	Subject      *string    // who this is at the sign-in provider
	ProvedAt     *time.Time // when they showed that the mailbox is theirs; nil if they never did
	Runs         bool       // runs the server, and sees how it is
}

// RecoveryCode lets its owner in once without the second factor.
type RecoveryCode struct {
	UserID   int64  `gorm:"primaryKey;autoIncrement:false"`
	CodeHash string `gorm:"primaryKey"`
}

type Session struct {
	TokenHash string `gorm:"primaryKey"`
	ID        int64  `gorm:"autoIncrement"`
	UserID    int64
	CSRF      string `gorm:"column:csrf"`
	ExpiresAt time.Time
	CreatedAt time.Time
	SeenAt    time.Time
	Address   string
	Agent     string
	Via       string // password or provider
}

// Device is a browser that somebody signed in from.
type Device struct {
	TokenHash string `gorm:"primaryKey"`
	UserID    int64
	SeenAt    time.Time
}

// AccessToken lets a program act for somebody.
type AccessToken struct {
	ID        int64 `gorm:"primaryKey"`
	UserID    int64
	Name      string
	TokenHash string
	Role      string // it may no more than this
	HouseID   *int64 // the house that it is for; nil for those of before, which are for all of their owner's
	Purpose   string
	CreatedAt time.Time
	ExpiresAt time.Time
	UsedAt    *time.Time
	UsedFrom  string
}

// Ticket is a link that is good once.
type Ticket struct {
	ID        int64 `gorm:"primaryKey"`
	Kind      string
	TokenHash string
	UserID    *int64
	HouseID   *int64
	Email     string
	Role      string
	ByUser    *int64
	ByName    string
	Mailed    bool // it went to the mailbox and nowhere else
	CreatedAt time.Time
	ExpiresAt time.Time
}

// SignInTries counts tries to sign in; see DB.Try.
type SignInTries struct {
	Who    string `gorm:"primaryKey"`
	Tries  float64
	LastAt time.Time
}

// Trail is one thing that somebody did, or tried to.
type Trail struct {
	ID          int64 `gorm:"primaryKey"`
	HouseID     *int64
	At          time.Time
	UserID      *int64
	ByName      string
	Via         string
	Address     string
	Request     string
	What        string
	About       string
	BeforeState string // JSON
	AfterState  string // JSON
	Outcome     int    // the status of the answer; 0 while it is not known
	Times       int    // how often it happened; 1 but for what happens again and again
	Once        *string
	Seal        string // of this row and the one before it in its chain; empty until it is sealed
}

// TrailChain is how far the rows of a house's trail, or of what concerns people only (0), are sealed.
type TrailChain struct {
	Chain    int64 `gorm:"primaryKey;autoIncrement:false"`
	SealedTo int64
	Seal     string
	GoneTo   int64
	GoneSeal string
	GoneMac  string
}

// SignInPending is a try to sign in of which is not known yet what it was.
type SignInPending struct {
	ID  int64 `gorm:"primaryKey"`
	Who string
	At  time.Time
}

// TableName is no plural.
func (SignInPending) TableName() string { return "sign_in_pending" }

// Passkey lets its owner in (Web Authentication).
type Passkey struct {
	ID             int64 `gorm:"primaryKey"`
	UserID         int64
	CredentialHash string
	Credential     string // JSON
	Name           string
	CreatedAt      time.Time
	UsedAt         *time.Time
}

// Ceremony is what is between the two halves of using a passkey.
type Ceremony struct {
	IDHash    string `gorm:"primaryKey"`
	Data      string // JSON
	ExpiresAt time.Time
}

// PackedFile is what was packed of an edition once.
type PackedFile struct {
	SetID      int64  `gorm:"primaryKey;autoIncrement:false"`
	Number     int    `gorm:"primaryKey;autoIncrement:false"`
	PackingKey string `gorm:"primaryKey"`
	HouseID    int64
	Packing    string
	FileName   string
	BlobKey    string
	MadeAt     time.Time
}

// HouseTurn is written by whoever changes a house.
type HouseTurn struct {
	HouseID int64 `gorm:"primaryKey;autoIncrement:false"`
	Turn    int64
}

// HouseMark is the mark of a house.
type HouseMark struct {
	HouseID   int64 `gorm:"primaryKey;autoIncrement:false"`
	Kind      string
	Data      []byte
	ChangedAt time.Time
}

type House struct {
	ID        int64 `gorm:"primaryKey"`
	Name      string
	NameKey   string
	Tolerance float64 // ΔE00
	Pictures  float64 // ΔE00 for the colors of pictures and frames
	Neutrals  bool    // pure grays, black and white are allowed in audits
	TrailDays int     // how long the trail is kept; 0 for good
	KeepDays  int     // how long runs of projects are kept that are not the last; 0 for good
	Again     bool    // projects are judged again by themselves when the library moved
	CreatedAt time.Time

	Inviters     string     // the least role that may invite
	SecondFactor bool       // nobody enters without one
	Notations    string     // that are offered first: "0 1 0" of hex, rgb and cmyk; empty for the program's own choice
	Sentence     string     // what stands on top of public pages
	Greeting     string     // what recipients read first
	ShownPress   string     // which the ledger shows
	ShownStock   string     // the same of papers
	Decides      string     // which kind of value does where a candidate has several: screen, build or ink; empty for the one written first
	InkClasses   string     // that the nearest ink is taken from, one a line; empty for all
	EndsAt       *time.Time // when a house that was given up is deleted
}

type Member struct {
	UserID  int64 `gorm:"primaryKey"`
	HouseID int64 `gorm:"primaryKey"`
	Role    string

	Monthly   bool       // wants the mail of the month
	MonthlyAt *time.Time // when that was last mailed
}

type ColorGroup struct {
	ID       int64 `gorm:"primaryKey"`
	HouseID  int64
	Name     string
	NameKey  string
	Position int
}

type Color struct {
	ID          int64 `gorm:"primaryKey"`
	HouseID     int64
	GroupID     *int64
	Name        string
	NameKey     string
	Hex         string // #RRGGBB
	Role        string
	Rule        string
	Status      string // draft, approved or retired
	SuccessorID *int64
	Position    int
	Version     int    // counts changes, so that two people editing at once notice each other
	Aliases     string // what others call it, one a line
	Tags        string // one a line
	Master      string // what decides it, see library.Master; empty for the hex

	PlainOrigin string // approved or given: the hex of a color that something else decides; empty where it is derived
	PlainBy     *int64
	PlainName   string
	PlainAt     *time.Time

	GroundID    *int64  // the color that it must stay legible on
	GroundRatio float64 // the least contrast ratio with it

	CreatedAt time.Time
	UpdatedAt time.Time
}

// Companion is a tint, shade, tone (in percent), step (50 to 950) or sheer (opacity in percent) kept with a color; its value follows the
// master.
type Companion struct {
	ColorID   int64  `gorm:"primaryKey;autoIncrement:false"`
	Kind      string `gorm:"primaryKey"`
	Amount    int    `gorm:"primaryKey;autoIncrement:false"`
	Permitted bool   // it may be used: audits count it as on-brand
	GroundID  int64  `gorm:"primaryKey;autoIncrement:false"` // the color below a sheer; 0 for white, and of every other kind
}

// Build is an approved CMYK build, in percent.
type Build struct {
	ColorID    int64  `gorm:"primaryKey"`
	Press      string `gorm:"primaryKey"`
	C, M, Y, K float64
	ByUser     *int64
	ByName     string
	ApprovedAt time.Time
	ForHex     string // what the color was when it was approved
	Meant      string // what decided it then, see library.Master; empty for the hex
	Origin     string // see library.Origin
}

// Press is a press condition of a house's own.
type Press struct {
	ID       int64 `gorm:"primaryKey"`
	HouseID  int64
	Name     string // as builds name it
	Label    string
	InkLimit float64 // total ink in percent
	Profile  []byte  // ICC
	ByName   string
	AddedAt  time.Time
}

// InkBook is the ink book of a house's own supplier.
type InkBook struct {
	HouseID int64 `gorm:"primaryKey;autoIncrement:false"`
	Name    string
	Data    string // as it was imported, CSV
	ByName  string
	AddedAt time.Time
}

// Spot is an approved spot ink.
type Spot struct {
	ColorID    int64  `gorm:"primaryKey"`
	Stock      string `gorm:"primaryKey"`
	Code       string
	ByUser     *int64
	ByName     string
	ApprovedAt time.Time
	ForHex     string
	Meant      string
	Origin     string
}

type ColorEvent struct {
	ID        int64 `gorm:"primaryKey"`
	ColorID   int64
	At        time.Time
	ByUser    *int64 // the account, if there is one still
	ByName    string // as it was then
	What      string
	BeforeHex string // set for an amendment of the master value
	AfterHex  string
	State     string // the color after it, as library.Color.WriteState wrote it; empty for events of older versions
	Source    string // "a backup of Our House" for an event that came with a file
}

type Candidate struct {
	ID        int64 `gorm:"primaryKey"`
	UserID    int64
	HouseID   int64
	Name      string
	Hex       string
	Source    string // as it was pasted
	Remark    string
	CMYK      string `gorm:"column:cmyk"` // a build given along with the value, as "2 75 87 8"
	Spot      string // the code of an ink given along with it
	Screen    string // the screen value given along with it, as somebody types it; empty if none was
	Master    string // what decides it, see library.Master; empty for the hex
	Origin    string // paste, picture, file, harmony, starter or reading
	Position  int
	CreatedAt time.Time
}

// Gradient runs between library colors.
type Gradient struct {
	ID      int64 `gorm:"primaryKey"`
	HouseID int64
	Name    string
	NameKey string
	Angle   float64 // degrees, 0 upward, clockwise, as in CSS
	Space   string  // of the interpolation
	Version int
}

// GradientStop is a color at a place, in percent of the way.
type GradientStop struct {
	GradientID int64 `gorm:"primaryKey"`
	Position   int   `gorm:"primaryKey"`
	ColorID    int64
	Place      float64
}

// Starter is a palette that a member added.
type Starter struct {
	ID        int64 `gorm:"primaryKey"`
	HouseID   int64
	UserID    int64
	Name      string
	Keywords  string // parted by spaces
	Colors    string // hex values parted by spaces
	Private   bool
	CreatedAt time.Time
}

// StarterMark is what a person did with a starter.
type StarterMark struct {
	HouseID int64  `gorm:"primaryKey"`
	UserID  int64  `gorm:"primaryKey"`
	Starter string `gorm:"primaryKey"`
	Liked   bool
	Uses    int
}

// Pair is a rule that a color may, or may not, stand on another.
type Pair struct {
	ColorID  int64 `gorm:"primaryKey;autoIncrement:false"`
	GroundID int64 `gorm:"primaryKey;autoIncrement:false"`
	HouseID  int64
	May      bool
	Ratio    float64 // the least contrast ratio; 0 where it may not
	ByUser   *int64
	ByName   string
	At       time.Time
}

type SwatchSet struct {
	ID       int64 `gorm:"primaryKey"`
	HouseID  int64
	Name     string
	NameKey  string
	Position int
	Version  int
	Follows  string // JSON; empty for a set by hand
	Slots    string // JSON; empty for none by hand
	BoxCount int
	Boxes    string // JSON; empty for none by hand
	Removed  int64  // 0, or the set's own id
	Slug     string // what its files are called at pickups; empty until somebody asks
}

type SetColor struct {
	SetID    int64 `gorm:"primaryKey"`
	ColorID  int64 `gorm:"primaryKey"`
	Position int
}

type Edition struct {
	SetID   int64 `gorm:"primaryKey"`
	Number  int   `gorm:"primaryKey"`
	HouseID int64
	FixedAt time.Time
	ByUser  *int64
	ByName  string
	Content string // as library.Edition.Write wrote it

	Note         string // stands in the content too
	WithdrawnAt  *time.Time
	WithdrawnBy  string
	WithdrawnWhy string
}

// EditionColor is one color of an edition, so that nobody needs to read its content to know who holds what.
type EditionColor struct {
	SetID    int64 `gorm:"primaryKey"`
	Number   int   `gorm:"primaryKey"`
	Position int   `gorm:"primaryKey"`
	ColorID  int64 // it may be gone meanwhile
	Hex      string
}

type Recipient struct {
	ID      int64 `gorm:"primaryKey"`
	HouseID int64
	Name    string
	NameKey string
	Kind    string
	Note    string

	Packings string // names, parted by spaces
	Ways     string // likewise
	Email    string // empty for none
	Version  int
	PausedAt *time.Time
	Removed  int64 // 0, or the recipient's own id
}

// Suggestion is a change that a keeper has not answered yet; what is empty stays as it is.
type Suggestion struct {
	ID      int64 `gorm:"primaryKey"`
	HouseID int64
	ColorID int64
	ByUser  *int64
	ByName  string
	At      time.Time
	Name    string
	Value   string
	Rule    string
	Note    string
}

// SetRecipient says that a recipient gets the editions of a set.
type SetRecipient struct {
	SetID       int64 `gorm:"primaryKey"`
	RecipientID int64 `gorm:"primaryKey"`
}

type Delivery struct {
	ID          int64 `gorm:"primaryKey"`
	RecipientID int64
	SetID       int64
	Number      int
	Packing     string
	ByName      string
	SentAt      time.Time
	ReceivedAt  *time.Time
	OK          bool
	Taken       int
	Slots       int
	Message     string

	Way    string // application, pickup, mail or hand
	Client string // what fetched it
	Times  int    // that it was fetched
	LastAt *time.Time
	Once   *string // what makes it the same receipt when it comes again; nil for what never is
}

// Mail is a notice of an edition that is mailed.
type Mail struct {
	ID          int64 `gorm:"primaryKey"`
	HouseID     int64
	RecipientID int64
	SetID       int64
	Number      int
	DeliveryID  int64
	Address     string
	Subject     string
	MessageID   string
	State       string // MailWaiting and the like
	Attempts    int
	Problem     string
	ByName      string
	CreatedAt   time.Time
	SentAt      *time.Time
}

// States of a mail.
const (
	MailWaiting = "waiting"
	MailSent    = "sent"
	MailFailed  = "failed"
)

// Project is files that are audited together.
type Project struct {
	ID        int64 `gorm:"primaryKey"`
	HouseID   int64
	Name      string
	NameKey   string
	ByUser    *int64
	ByName    string
	CreatedAt time.Time
	Removed   int64      // 0, or its own id
	CheckedAt *time.Time // when it was judged again by itself and came out as before
}

// ProjectFile is a file of a project, as its next run finds it.
type ProjectFile struct {
	ProjectID int64  `gorm:"primaryKey"`
	PathKey   string `gorm:"primaryKey"` // SHA-256 of the path
	Path      string
	BlobKey   string // empty for one that is not read
	Size      int64
	AddedAt   time.Time
	Why       string // it is not read; empty for one that is
	DroppedAt *time.Time
}

// Run is one audit of a project.
type Run struct {
	ID        int64 `gorm:"primaryKey"`
	HouseID   int64
	ProjectID int64
	Number    int
	ByUser    *int64
	ByName    string
	At        time.Time
	Tolerance float64
	Files     int
	Uses      int
	Findings  int
	Unjudged  int
	Score     *float64 // nil where nothing was judged
	Unread    string   // JSON
	Same      int      // files whose reports are those of the run before, since neither they nor what they are judged by changed
}

// Remark is what somebody says about a color that was found in a file of a project.
type Remark struct {
	ID         int64 `gorm:"primaryKey"`
	ProjectID  int64
	Path       string
	Color      string // its key in reports
	Text       string
	ByUser     *int64
	ByName     string
	At         time.Time
	ForUser    *int64 // who is to see to it
	ForName    string
	SettledRun int // the number of the run in which it was gone; 0 for none yet
	SettledAt  *time.Time
}

// Excuse is a recorded exception.
type Excuse struct {
	ID        int64 `gorm:"primaryKey"`
	HouseID   int64
	ProjectID *int64 // nil for all
	Color     string
	Path      string
	Place     string
	Reason    string
	ByUser    *int64
	ByName    string
	At        time.Time
	UntilDay  *time.Time // the last day
	EndedAt   *time.Time
	EndedBy   string
	ToldAt    *time.Time // when it was mailed that it is about to end
}

// Plan is a saved repaint plan.
type Plan struct {
	ID        int64 `gorm:"primaryKey"`
	HouseID   int64
	Name      string
	NameKey   string
	Steps     string // JSON
	Version   int
	ByName    string
	ChangedAt time.Time
}

// Repaint is what repainting made.
type Repaint struct {
	ID          int64 `gorm:"primaryKey"`
	HouseID     int64
	ProjectID   int64
	RunID       int64
	ByUser      *int64
	ByName      string
	At          time.Time
	Name        string
	BlobKey     string // empty for a dry run
	ReportKey   string
	Changed     int
	LeftOver    int
	ScoreBefore *float64
	ScoreAfter  *float64
}

type Audit struct {
	ID        int64 `gorm:"primaryKey"`
	HouseID   int64
	ProjectID *int64 // nil for audits of before
	RunID     *int64
	Path      string // in the project
	ByUser    *int64
	ByName    string
	At        time.Time
	FileName  string
	Kind      string
	Size      int64
	BlobKey   string // the file
	ReportKey string // the report
	Tolerance float64
	Uses      int
	Findings  int
	Unjudged  int
	Score     *float64 // nil where nothing was judged
	Report    string   // of audits of before, until it lies under ReportKey
	Basis     string   // a checksum of all that the report hangs on; empty for audits of before
}

// AuditColor is one color that an audit found.
type AuditColor struct {
	AuditID  int64 `gorm:"primaryKey"`
	Position int   `gorm:"primaryKey"` // in the report
	HouseID  int64
	Hex      string
	Verdict  string
	Uses     int
	Places   int
}

// WayBack is how a change of many things at once is taken back.
type WayBack struct {
	ID      int64 `gorm:"primaryKey"`
	HouseID int64
	ByUser  *int64
	ByName  string
	At      time.Time
	Turn    int64  // of the house when the change was made
	BlobKey string // the library as it was, see SetAside
	Added   string // JSON: what came in that is not of the library
	GoneAt  *time.Time
}

func (WayBack) TableName() string { return "ways_back" }

// WayFile is a stored file that is needed on a way back.
type WayFile struct {
	WayID   int64  `gorm:"primaryKey;autoIncrement:false"`
	BlobKey string `gorm:"primaryKey"`
}

// File is a stored file.
type File struct {
	BlobKey string `gorm:"primaryKey"`
	HouseID *int64
	SHA256  string `gorm:"column:sha256"`
	Size    int64
	AddedAt time.Time
}

// Job is long work. Only who holds its lease writes to it.
type Job struct {
	ID         int64 `gorm:"primaryKey"`
	HouseID    *int64
	ByUser     *int64
	ByName     string
	Kind       string
	Payload    string // JSON
	BlobKey    string
	State      string
	Stage      string
	Share      float64
	Result     string
	Problem    string
	Attempts   int
	Worker     string
	RunAt      time.Time
	LeaseUntil *time.Time
	CreatedAt  time.Time
	EndedAt    *time.Time
}

// Computed is what followed from a master value.
type Computed struct {
	Subject string `gorm:"primaryKey"`
	Hex     string `gorm:"primaryKey"` // see ComputedKey
	Answer  []byte
}

// TableName is singular in GORM's eyes otherwise.
func (Computed) TableName() string { return "computed" }

// Link lets its holder see one thing of a house.
type Link struct {
	ID        int64 `gorm:"primaryKey"`
	HouseID   int64
	Kind      string // board, pickup, set or library
	ThingID   int64
	TokenHash string
	ByUser    *int64
	ByName    string
	CreatedAt time.Time
	ExpiresAt *time.Time
	RevokedAt *time.Time

	Token   string // of a link for anybody, whose address is no secret; empty for others
	Opened  int    // how often the page of one for anybody was opened, and files were fetched there
	Fetched int
	LastAt  *time.Time

	PhraseHash string // empty for none
}

// Board is a board as it is worked on.
type Board struct {
	ID        int64 `gorm:"primaryKey"`
	HouseID   int64
	Title     string
	Version   int
	Content   string // as board.Board.Write wrote it
	ByUser    *int64
	ByName    string
	ChangedAt time.Time
}

// BoardSheet is a board as it was fixed.
type BoardSheet struct {
	ID      int64 `gorm:"primaryKey"`
	BoardID int64
	HouseID int64
	Number  int
	Content string // as board.Board.Write wrote it
	ByUser  *int64
	ByName  string
	FixedAt time.Time
}

// BoardAnswer is what one person chose on a sheet.
type BoardAnswer struct {
	ID      int64 `gorm:"primaryKey"`
	SheetID int64
	Page    string // digest of the page that it was sent from
	Name    string
	NameKey string
	Choice  int // place of the option
	Comment string
	FirstAt time.Time
	At      time.Time
}

// Typeface is a font of a house's own.
type Typeface struct {
	ID        int64 `gorm:"primaryKey"`
	HouseID   int64
	Name      string
	Kind      string
	Data      []byte
	ByName    string
	AddedAt   time.Time
	RemovedAt *time.Time
}

// Logo is a picture that boards carry.
type Logo struct {
	HouseID int64  `gorm:"primaryKey;autoIncrement:false"`
	SHA256  string `gorm:"primaryKey;column:sha256"`
	Data    []byte
}

// RemovedColor is a color that was removed and can come back.
type RemovedColor struct {
	HouseID   int64 `gorm:"primaryKey"`
	ColorID   int64 `gorm:"primaryKey"`
	Content   string
	ByUser    *int64
	ByName    string
	RemovedAt time.Time
}

// Models lists every model, for the test that compares them with the schema.
var Models = []any{&SetRecipient{}, &Suggestion{}, &User{}, &Session{}, &RecoveryCode{}, &Device{}, &AccessToken{}, &Ticket{},
	&SignInTries{}, &SignInPending{}, &Passkey{}, &Ceremony{}, &Trail{}, &TrailChain{}, &PackedFile{}, &HouseMark{}, &HouseTurn{}, &House{},
	&Member{}, &ColorGroup{}, &Color{}, &Build{}, &Spot{},
	&ColorEvent{}, &Candidate{}, &SwatchSet{}, &SetColor{}, &Edition{}, &Recipient{}, &Delivery{}, &Mail{}, &Audit{},
	&Companion{}, &Press{}, &InkBook{}, &Gradient{}, &GradientStop{}, &Pair{}, &Starter{}, &StarterMark{},
	&EditionColor{}, &AuditColor{}, &File{}, &WayBack{}, &WayFile{}, &Claim{}, &Job{}, &Computed{}, &Link{}, &RemovedColor{},
	&Project{}, &ProjectFile{}, &Run{}, &Excuse{}, &Remark{}, &Plan{}, &Repaint{}, &Board{}, &BoardSheet{}, &BoardAnswer{}, &Typeface{},
	&Logo{}, &InstanceNews{}, &Instance{}, &Night{}, &LoadingNote{}, &Trouble{}, &Hook{}, &HookMessage{}, &HookColor{}}

// NameKey is the form in which names are compared: case, spacing and the ways to write an accent do not make two names
// different.
func NameKey(name string) string {
	return strings.ToLower(norm.NFKC.String(strings.Join(strings.Fields(name), " ")))
}

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
	PasswordHash string
	CreatedAt    time.Time
}

type Session struct {
	TokenHash string `gorm:"primaryKey"`
	UserID    int64
	CSRF      string `gorm:"column:csrf"`
	ExpiresAt time.Time
}

type SignInFailure struct {
	EmailKey string `gorm:"primaryKey"`
	Failures int
	LastAt   time.Time
}

type House struct {
	ID        int64 `gorm:"primaryKey"`
	Name      string
	Tolerance float64 // ΔE00
	Neutrals  bool    // pure grays, black and white are allowed in audits
	CreatedAt time.Time
}

type Member struct {
	UserID  int64 `gorm:"primaryKey"`
	HouseID int64 `gorm:"primaryKey"`
	Role    string
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
	Version     int // counts changes, so that two people editing at once notice each other
	CreatedAt   time.Time
	UpdatedAt   time.Time
	Builds      []Build `gorm:"foreignKey:ColorID"`
	Spots       []Spot  `gorm:"foreignKey:ColorID"`
}

// Build is an approved CMYK build, in percent.
type Build struct {
	ColorID    int64  `gorm:"primaryKey"`
	Press      string `gorm:"primaryKey"`
	C, M, Y, K float64
	ByName     string
	ApprovedAt time.Time
	ForHex     string // the master value when it was approved
}

// Spot is an approved spot ink.
type Spot struct {
	ColorID    int64  `gorm:"primaryKey"`
	Stock      string `gorm:"primaryKey"`
	Code       string
	ByName     string
	ApprovedAt time.Time
	ForHex     string
}

type ColorEvent struct {
	ID        int64 `gorm:"primaryKey"`
	ColorID   int64
	At        time.Time
	ByName    string
	What      string
	BeforeHex string // set for an amendment of the master value
	AfterHex  string
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
	CreatedAt time.Time
}

type SwatchSet struct {
	ID       int64 `gorm:"primaryKey"`
	HouseID  int64
	Name     string
	NameKey  string
	Position int
	Version  int
	Colors   []SetColor `gorm:"foreignKey:SetID"`
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
	ByName  string
	Content string // a swatchfile.Edition as JSON
}

type Recipient struct {
	ID      int64 `gorm:"primaryKey"`
	HouseID int64
	Name    string
	NameKey string
	Kind    string // office or web
	Note    string
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
}

type Audit struct {
	ID        int64 `gorm:"primaryKey"`
	HouseID   int64
	ByName    string
	At        time.Time
	FileName  string
	Kind      string
	Size      int64
	BlobKey   string
	Tolerance float64
	Uses      int
	Findings  int
	Score     float64
	Report    string // an audit.Report as JSON
}

// Models lists every model, for the test that compares them with the schema.
var Models = []any{&User{}, &Session{}, &SignInFailure{}, &House{}, &Member{}, &ColorGroup{}, &Color{}, &Build{}, &Spot{},
	&ColorEvent{}, &Candidate{}, &SwatchSet{}, &SetColor{}, &Edition{}, &Recipient{}, &Delivery{}, &Audit{}}

// NameKey is the form in which names are compared: case, spacing and the ways to write an accent do not make two names
// different.
func NameKey(name string) string {
	return strings.ToLower(norm.NFKC.String(strings.Join(strings.Fields(name), " ")))
}

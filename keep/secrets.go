package keep

import (
	"crypto/aes"
	"crypto/cipher"
	"crypto/hmac"
	"crypto/rand"
	"crypto/sha256"
	"encoding/base64"
	"encoding/hex"
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"slices"
	"strings"
)

// Keys encrypt what in the database is a secret, and seal the trail. They lie outside of the database: whoever reads that has neither.
type Keys struct {
	list []key // the first is used for what is new
}

type key struct {
	id    string // eight hexadecimal digits
	bytes []byte // 32
}

// NewKeys makes keys of one that is made now.
func NewKeys() *Keys {
	k := &Keys{}
	k.Rotate()
	return k
}

// Rotate makes a new key, which is used from now on; what older ones encrypted and sealed is still read.
func (k *Keys) Rotate() {
	b := make([]byte, 36)
	_, _ = rand.Read(b) // never fails, see crypto/rand
	k.list = append([]key{{hex.EncodeToString(b[32:]), b[:32]}}, k.list...)
}

// Drop forgets all keys but the first.
func (k *Keys) Drop() { k.list = k.list[:1] }

// ReadKeys reads keys as text: a line each, an id and 32 bytes in base64, the one that is used first.
func ReadKeys(text string) (*Keys, error) {
	k := &Keys{}
	for n, line := range strings.Split(text, "\n") {
		fields := strings.Fields(line)
		if len(fields) == 0 || strings.HasPrefix(fields[0], "#") {
			continue
		}
		if len(fields) != 2 || len(fields[0]) != 8 {
			return nil, fmt.Errorf("line %d is no key: it has an id of 8 characters and 32 bytes in base64", n+1)
		}
		b, err := base64.StdEncoding.DecodeString(fields[1])
		if err != nil || len(b) != 32 {
			return nil, fmt.Errorf("line %d is no key: 32 bytes in base64 are expected behind its id", n+1)
		}
		k.list = append(k.list, key{fields[0], b})
	}
	if len(k.list) == 0 {
		return nil, errors.New("there is no key in it")
	}
	return k, nil
}

func (k *Keys) text() string {
	var b strings.Builder
	b.WriteString("# Keys of Hue Keep: whoever has this file and the database reads the secrets of second factors. Keep a copy beside your dumps.\n")
	for _, one := range k.list {
		fmt.Fprintf(&b, "%s %s\n", one.id, base64.StdEncoding.EncodeToString(one.bytes))
	}
	return b.String()
}

// LoadKeys reads the keys of a file, which is made if it is not there.
func LoadKeys(path string) (*Keys, error) {
	text, err := os.ReadFile(path)
	if errors.Is(err, os.ErrNotExist) {
		k := NewKeys()
		return k, k.Save(path, true)
	} else if err != nil {
		return nil, err
	}
	k, err := ReadKeys(string(text))
	if err != nil {
		return nil, fmt.Errorf("%s: %w", path, err)
	}
	return k, nil
}

// Save writes the keys into a file that only this user reads; the file is whole at every moment. Fresh fails if there is one.
func (k *Keys) Save(path string, fresh bool) error {
	if err := os.MkdirAll(filepath.Dir(path), 0o700); err != nil {
		return err
	}
	f, err := os.CreateTemp(filepath.Dir(path), ".keys-")
	if err != nil {
		return err
	}
	defer os.Remove(f.Name())
	_, err = f.WriteString(k.text())
	if err := errors.Join(err, f.Sync(), f.Close()); err != nil {
		return err
	}
	if !fresh {
		return os.Rename(f.Name(), path)
	}
	err = os.Link(f.Name(), path)
	if errors.Is(err, os.ErrExist) { // another instance was faster
		other, err := LoadKeys(path)
		if err == nil {
			k.list = other.list
		}
		return err
	}
	return err
}

const sealed = "k1:"

// ErrNoKey says that a secret was encrypted with a key that is not there.
var ErrNoKey = errors.New("it was encrypted with a key that is not there")

// Encrypt encrypts a secret (AES-256-GCM) for a place, such as "totp 5": it is read in no other.
func (k *Keys) Encrypt(secret, place string) string {
	if secret == "" {
		return ""
	}
	g, nonce := gcm(k.list[0].bytes), make([]byte, 12)
	_, _ = rand.Read(nonce)
	return sealed + k.list[0].id + ":" + base64.RawStdEncoding.EncodeToString(g.Seal(nonce, nonce, []byte(secret), []byte(place)))
}

// Decrypt reads a secret; one of before that is not encrypted is itself.
func (k *Keys) Decrypt(text, place string) (string, error) {
	rest, ok := strings.CutPrefix(text, sealed)
	if !ok {
		return text, nil
	}
	id, data, _ := strings.Cut(rest, ":")
	b, err := base64.RawStdEncoding.DecodeString(data)
	if err != nil || len(b) < 12 {
		return "", errors.New("a secret is damaged")
	}
	for _, one := range k.list {
		if one.id == id {
			plain, err := gcm(one.bytes).Open(nil, b[:12], b[12:], []byte(place))
			return string(plain), err
		}
	}
	return "", ErrNoKey
}

// Has says whether there is a key with an id.
func (k *Keys) Has(id string) bool {
	return slices.ContainsFunc(k.list, func(one key) bool { return one.id == id })
}

// Current says whether a secret is encrypted with the key that is used now.
func (k *Keys) Current(text string) bool {
	return text == "" || strings.HasPrefix(text, sealed+k.list[0].id+":")
}

func gcm(key []byte) cipher.AEAD {
	block, err := aes.NewCipher(key)
	if err != nil {
		panic(err) // of 32 bytes it does not fail
	}
	g, err := cipher.NewGCM(block)
	if err != nil {
		panic(err)
	}
	return g
}

// Seal is the seal of a text (HMAC-SHA-256, 192 bits) with the key that is used now, behind its id.
func (k *Keys) Seal(text string) string { return k.list[0].seal(text) }

// Fits says whether a seal is one of a text.
func (k *Keys) Fits(seal, text string) bool {
	id, _, _ := strings.Cut(seal, ":")
	for _, one := range k.list {
		if one.id == id {
			return hmac.Equal([]byte(one.seal(text)), []byte(seal))
		}
	}
	return false
}

func (k key) seal(text string) string {
	m := hmac.New(sha256.New, k.bytes)
	m.Write([]byte("trail\n" + text))
	return k.id + ":" + hex.EncodeToString(m.Sum(nil)[:24])
}

package server

import (
	"fmt"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
)

func TestALimiterHoldsWhoDidItTooOften(t *testing.T) {
	l := limiter{most: 3, within: 50 * time.Millisecond}
	for range 2 {
		l.count("a")
		assert.Zero(t, l.held("a"))
	}
	l.count("a")
	assert.Positive(t, l.held("a"))
	assert.LessOrEqual(t, l.held("a"), 50*time.Millisecond)
	assert.Zero(t, l.held("b"), "others go on")
	time.Sleep(60 * time.Millisecond)
	assert.Zero(t, l.held("a"), "after a while")
	l.count("a")
	assert.Zero(t, l.held("a"), "and it begins anew")
}

func TestALimiterRemembersOnlySoMany(t *testing.T) {
	l := limiter{most: 1, within: time.Hour}
	var all sync.WaitGroup
	for w := range 4 {
		all.Go(func() {
			for i := range remembered / 2 {
				l.count(fmt.Sprint(w, i))
			}
		})
	}
	all.Wait()
	assert.LessOrEqual(t, len(l.seen), remembered)
}

package main

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestWhatIsSaidOfTestsIsPassedOn(t *testing.T) {
	var out strings.Builder
	took, err := Read(strings.NewReader(`# huekeep/x
{"Action":"build-output","ImportPath":"huekeep/x","Output":"x.go:1: no\n"}
{"Action":"run","Package":"a","Test":"TestOne"}
{"Action":"output","Package":"a","Test":"TestOne","Output":"=== RUN   TestOne\n"}
{"Action":"pass","Package":"a","Test":"TestOne/inner","Elapsed":9}
{"Action":"pass","Package":"a","Test":"TestOne","Elapsed":1.5}
{"Action":"output","Package":"a","Output":"PASS\n"}
{"Action":"output","Package":"a","Output":"ok  \ta\t(cached)\n"}
{"Action":"pass","Package":"a","Elapsed":3}
{"Action":"output","Package":"b","Test":"TestTwo","Output":"    two_test.go:3: off by one\n"}
{"Action":"output","Package":"b","Test":"TestTwo/inner","Output":"    two_test.go:4: within\n"}
{"Action":"fail","Package":"b","Test":"TestTwo","Elapsed":2.5}
{"Action":"output","Package":"b","Output":"FAIL\tb\t2.6s\n"}
{"Action":"output","Package":"c","Test":"TestThree","Output":"panic: out of paper\n"}
`), &out)
	require.NoError(t, err)
	assert.Equal(t, "# huekeep/x\nx.go:1: no\nok  \ta\t(cached)\n    two_test.go:3: off by one\n    two_test.go:4: within\nFAIL\tb\t2.6s\npanic: out of paper\n", out.String())
	assert.Equal(t, []Test{{"b", "TestTwo", 2.5, false}, {"a", "TestOne", 1.5, true}}, took)
	out.Reset()
	List(&out, took)
	assert.Equal(t, "\nThe slowest of 2 tests:\n    2.5 s  b TestTwo\n    1.5 s  a TestOne (cached)\n", out.String())
}

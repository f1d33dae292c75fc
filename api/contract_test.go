package api_test

import (
	"context"
	"slices"
	"strings"
	"testing"

	"github.com/getkin/kin-openapi/openapi3"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"huekeep/api"
	"huekeep/core/audit"
	"huekeep/keep"
	"huekeep/keep/links"
	"huekeep/keep/once"
	"huekeep/keep/send"
)

func TestTheContractIsValidAndSaysWhoMayCallWhat(t *testing.T) {
	doc, err := openapi3.NewLoader().LoadFromData(api.Contract)
	require.NoError(t, err)
	require.NoError(t, doc.Validate(context.Background()))
	access, err := api.AccessOf(api.Contract)
	require.NoError(t, err)
	require.Equal(t, api.Access{Operation: "getTray", Role: "reader"}, access["GET /houses/:house/tray"])
	require.Equal(t, api.Access{Operation: "signIn", Open: true}, access["POST /session"])
}

// Whoever reads the contract learns of every operation what it does and how to be let in, and of every problem its code.
func TestTheContractSaysWhatAndHow(t *testing.T) {
	doc, err := openapi3.NewLoader().LoadFromData(api.Contract)
	require.NoError(t, err)
	known := map[string]bool{}
	for _, tag := range doc.Tags {
		known[tag.Name] = true
	}
	for path, item := range doc.Paths.Map() {
		for method, op := range item.Operations() {
			assert.NotEmpty(t, op.Summary, op.OperationID)
			assert.Len(t, op.Tags, 1, op.OperationID)
			for _, tag := range op.Tags {
				assert.True(t, known[tag], "%s: %s", op.OperationID, tag)
			}
			for _, way := range *op.Security {
				_, session := way["session"]
				_, csrf := way["csrf"]
				assert.Equal(t, session && method != "GET", csrf, "%s %s", method, path)
			}
		}
	}
	codes := doc.Components.Schemas["Problem"].Value.Properties["code"].Value.Description
	for _, code := range []string{string(keep.Invalid), string(keep.Forbidden), string(keep.NotFound), string(keep.Conflict), string(keep.TooLarge), string(keep.TooMany), string(keep.Unauthorized), string(keep.NoRoom),
		string(keep.Away), once.CodeUsed, links.CodeClosed, send.CodeWithdrawn, keep.CodeStale, keep.CodeTaken, keep.CodeBusy, keep.CodeHeld, keep.CodePage, keep.CodeUncertain, keep.CodeFiles} {
		assert.Contains(t, codes, code)
	}
}

// looks are operations of a house that are asked with POST for the length of what is asked, and make nothing.
var looks = []string{"readText", "readFile", "takeReading", "printColors", "putToWork", "proofPicture", "proposeOptions", "lookAtBackup", "previewAmendment", "readPlan", "listPlanUses", "viewPlanned"}

// Whoever writes a program finds of each body how it may look, and of each operation that makes something how it is done once.
func TestTheContractShowsAndRepeats(t *testing.T) {
	doc, err := openapi3.NewLoader().LoadFromData(api.Contract)
	require.NoError(t, err)
	access, err := api.AccessOf(api.Contract)
	require.NoError(t, err)
	once := map[string]bool{}
	for _, a := range access {
		once[a.Operation] = a.Once
	}
	for path, item := range doc.Paths.Map() {
		for method, op := range item.Operations() {
			inHouse := strings.HasPrefix(path, "/houses/{house}/")
			assert.Equal(t, inHouse && method == "POST" && !slices.Contains(looks, op.OperationID), once[op.OperationID], "%s takes an Idempotency-Key", op.OperationID)
			if op.RequestBody == nil || !inHouse {
				continue
			}
			if body := op.RequestBody.Value.Content.Get("application/json"); body != nil {
				assert.NotNil(t, body.Example, "%s has no example", op.OperationID)
			}
		}
	}
}

// The words that the contract lists are those of the tables of the rules.
func TestTheContractListsTheWordsOfTheRules(t *testing.T) {
	doc, err := openapi3.NewLoader().LoadFromData(api.Contract)
	require.NoError(t, err)
	var verdicts, kinds []any
	for _, v := range audit.Verdicts {
		verdicts = append(verdicts, string(v))
	}
	for _, k := range send.Kinds {
		kinds = append(kinds, k.Name)
	}
	assert.ElementsMatch(t, verdicts, doc.Components.Schemas["Verdict"].Value.Enum)
	assert.ElementsMatch(t, kinds, doc.Components.Schemas["Recipient"].Value.Properties["kind"].Value.Enum)
}

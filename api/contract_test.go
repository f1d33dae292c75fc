package api_test

import (
	"context"
	"testing"

	"github.com/getkin/kin-openapi/openapi3"
	"github.com/stretchr/testify/require"

	"huekeep/api"
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

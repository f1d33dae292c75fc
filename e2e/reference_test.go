package e2e

import (
	"testing"

	"github.com/stretchr/testify/require"
)

// The contract is a page on which one reads an operation and tries it as whoever is signed in; what it changes is changed.
func TestTheContractIsReadAndTried(t *testing.T) {
	u := visit(t)
	u.enter("keeper")
	require.NoError(t, u.page.Navigate(u.url+"/api"))
	u.click(".opblock-tag", "library")
	u.click(".opblock-summary-control", "Adds a color in one call")
	u.click("button", "Try it out")
	u.paste("input[placeholder=house]", "1")
	u.page.MustElement(".body-param textarea").MustSelectAllText().MustInput(`{"name": "Night Boat", "value": "#123456"}`)
	u.click("button", "^Execute$")
	u.see(".live-responses-table .response-col_status", "201")
	u.see(".live-responses-table", "location: /api/houses/1/colors/")
	u.open("/h/1/library")
	u.see("[role=row]", "Night Boat")
}

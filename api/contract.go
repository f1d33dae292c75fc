package api

import (
	_ "embed"
	"fmt"
	"net/http"
	"strings"
	"sync"

	"github.com/getkin/kin-openapi/openapi3"
)

//go:embed openapi.yaml
var contract []byte

// Contract is the contract that the generated code was made from.
var Contract = sync.OnceValues(func() (*openapi3.T, error) { return openapi3.NewLoader().LoadFromData(contract) })

// Access is who may call an operation, and how.
type Access struct {
	Operation string
	Open      bool   // nobody needs to be signed in
	Role      string // the least role in the house of the address; empty where there is no house
	Link      string // the kind of link whose holder may call it; empty for none
	Trail     bool   // it is put on the trail of its house
	File      bool   // its body is a form with a file
	Large     bool   // its body may be a long text or list
}

// AccessOf returns who may call each operation, by method and path as Fiber writes it: "GET /houses/:house/tray". An operation
// that does not state it is an error.
func AccessOf(doc *openapi3.T) (map[string]Access, error) {
	out := map[string]Access{}
	for path, item := range doc.Paths.Map() {
		for method, op := range item.Operations() {
			a := Access{Operation: op.OperationID}
			if op.Security == nil {
				return nil, fmt.Errorf("%s does not state who may call it", op.OperationID)
			}
			a.Open = len(*op.Security) == 0
			for _, scheme := range *op.Security {
				if _, link := scheme["link"]; link {
					if a.Link, _ = op.Extensions["x-link"].(string); a.Link == "" {
						return nil, fmt.Errorf("%s does not state which link may call it", op.OperationID)
					}
				}
			}
			a.Role, _ = op.Extensions["x-least-role"].(string)
			inHouse := strings.HasPrefix(path, "/houses/{house}")
			if inHouse != (a.Role != "") && a.Link == "" {
				return nil, fmt.Errorf("%s must state the least role, and only operations in a house do", op.OperationID)
			}
			a.Trail = a.Role != "" && method != http.MethodGet
			if on, said := op.Extensions["x-trail"].(bool); said {
				a.Trail = on
			}
			a.Large, _ = op.Extensions["x-large"].(bool)
			if op.RequestBody != nil {
				_, a.File = op.RequestBody.Value.Content["multipart/form-data"]
			}
			out[method+" "+strings.NewReplacer("{", ":", "}", "").Replace(path)] = a
		}
	}
	return out, nil
}

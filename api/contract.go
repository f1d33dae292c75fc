package api

import (
	_ "embed"
	"fmt"
	"net/http"
	"strings"

	"go.yaml.in/yaml/v3"
)

// Contract is the contract that the generated code was made from, as OpenAPI writes it.
//
//go:embed openapi.yaml
var Contract []byte

// Access is who may call an operation, and how.
type Access struct {
	Operation string
	Open      bool   // nobody needs to be signed in
	Role      string // the least role in the house of the address; empty where there is no house
	Link      string // the kind of link whose holder may call it; empty for none
	Trail     bool   // it is put on the trail of its house
	File      bool   // its body is a form with a file
	Large     bool   // its body may be a long text or list
	Once      bool   // with a key it is done once, however often it is asked for
}

// operation is what is read of one here.
type operation struct {
	ID       string                 `yaml:"operationId"`
	Security *[]map[string][]string `yaml:"security"`
	Link     string                 `yaml:"x-link"`
	Role     string                 `yaml:"x-least-role"`
	Trail    *bool                  `yaml:"x-trail"`
	Large    bool                   `yaml:"x-large"`

	Parameters []struct {
		Ref string `yaml:"$ref"`
	} `yaml:"parameters"`
	Body struct {
		Content map[string]yaml.Node `yaml:"content"`
	} `yaml:"requestBody"`
}

var methods = []string{http.MethodGet, http.MethodPut, http.MethodPost, http.MethodDelete, http.MethodPatch, http.MethodHead,
	http.MethodOptions}

// AccessOf returns who may call each operation of a contract, by method and path as Fiber writes it: "GET /houses/:house/tray". An
// operation that does not state it is an error.
func AccessOf(contract []byte) (map[string]Access, error) {
	var doc struct {
		Paths map[string]map[string]yaml.Node `yaml:"paths"`
	}
	if err := yaml.Unmarshal(contract, &doc); err != nil {
		return nil, err
	}
	out := map[string]Access{}
	for path, item := range doc.Paths {
		for _, method := range methods {
			node, there := item[strings.ToLower(method)]
			if !there {
				continue
			}
			var op operation
			if err := node.Decode(&op); err != nil {
				return nil, fmt.Errorf("%s %s: %w", method, path, err)
			}
			a, err := op.access(method, strings.HasPrefix(path, "/houses/{house}"))
			if err != nil {
				return nil, err
			}
			out[method+" "+strings.NewReplacer("{", ":", "}", "").Replace(path)] = a
		}
	}
	return out, nil
}

func (op *operation) access(method string, inHouse bool) (Access, error) {
	a := Access{Operation: op.ID, Role: op.Role, Large: op.Large}
	if op.Security == nil {
		return a, fmt.Errorf("%s does not state who may call it", op.ID)
	}
	a.Open = len(*op.Security) == 0
	for _, scheme := range *op.Security {
		if _, link := scheme["link"]; link {
			if a.Link = op.Link; a.Link == "" {
				return a, fmt.Errorf("%s does not state which link may call it", op.ID)
			}
		}
	}
	if inHouse != (a.Role != "") && a.Link == "" {
		return a, fmt.Errorf("%s must state the least role, and only operations in a house do", op.ID)
	}
	a.Trail = a.Role != "" && method != http.MethodGet
	if op.Trail != nil {
		a.Trail = *op.Trail
	}
	for _, p := range op.Parameters {
		a.Once = a.Once || p.Ref == "#/components/parameters/IdempotencyKey"
	}
	_, a.File = op.Body.Content["multipart/form-data"]
	return a, nil
}

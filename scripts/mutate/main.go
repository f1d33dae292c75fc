// Command mutate breaks lines of packages, one at a time, and says how many of the breaks the tests of their own packages notice. What they
// do not is listed, with the line: each is a test that is missing, or a line that could go.
//
//	go run ./scripts/mutate [-n 40] [-seed 1] [-file judge.go] [-also PACKAGE] PACKAGE...
//
// With -also, what the package's own tests do not notice may be noticed by those of another one, which exists for it.
// Files are not touched: the compiler is given the broken one in place (go help build, -overlay). The places are drawn by the seed, so that
// two runs of the same code break the same lines. A break that does not compile is not counted, one that never ends counts as noticed.
package main

import (
	"bytes"
	"encoding/json"
	"errors"
	"flag"
	"fmt"
	"go/ast"
	"go/importer"
	"go/parser"
	"go/token"
	"go/types"
	"math/rand/v2"
	"os"
	"os/exec"
	"path/filepath"
	"sort"
	"strconv"
	"strings"
	"sync"
)

// mutant is one break.
type mutant struct {
	file     string
	line     int
	from, to int // the bytes that are replaced
	text     string
	what     string
}

// swaps are what stands in place of an operator.
var swaps = map[token.Token]token.Token{
	token.LSS: token.LEQ, token.LEQ: token.LSS, token.GTR: token.GEQ, token.GEQ: token.GTR, token.EQL: token.NEQ, token.NEQ: token.EQL,
	token.LAND: token.LOR, token.LOR: token.LAND, token.ADD: token.SUB, token.SUB: token.ADD, token.MUL: token.QUO, token.QUO: token.MUL,
}

// mutants are all breaks of the files of a package. Left out is what changes nothing: how much room is made beforehand, how long arrays are
// beyond what is used, and whether a limit of numbers with fractions belongs to it, on which they hardly ever lie.
func mutants(dir string, names []string) (out []mutant, err error) {
	fs := token.NewFileSet()
	var files []*ast.File
	for _, name := range names {
		f, err := parser.ParseFile(fs, filepath.Join(dir, name), nil, 0)
		if err != nil {
			return nil, err
		}
		files = append(files, f)
	}
	is := &types.Info{Types: map[ast.Expr]types.TypeAndValue{}}
	// What cannot be told of a type is taken for whole numbers.
	conf := types.Config{Importer: importer.ForCompiler(fs, "source", nil), Error: func(error) {}}
	_, _ = conf.Check(dir, fs, files, is)
	for _, f := range files {
		list, err := mutantsOf(fs, f, is)
		if err != nil {
			return nil, err
		}
		out = append(out, list...)
	}
	return out, nil
}

// fractions says whether an expression is a number with fractions.
func fractions(is *types.Info, e ast.Expr) bool {
	t := is.Types[e].Type
	if t == nil {
		return false
	}
	b, ok := t.Underlying().(*types.Basic)
	return ok && b.Info()&types.IsFloat != 0
}

func mutantsOf(fs *token.FileSet, f *ast.File, is *types.Info) (out []mutant, err error) {
	name := fs.Position(f.Pos()).Filename
	src, err := os.ReadFile(name)
	if err != nil {
		return nil, err
	}
	add := func(from, to token.Pos, text, what string) {
		p := fs.Position(from)
		out = append(out, mutant{name, p.Line, p.Offset, fs.Position(to).Offset, text, what})
	}
	var visit func(n ast.Node) bool
	visit = func(n ast.Node) bool {
		switch n := n.(type) {
		case *ast.ImportSpec:
			return false
		case *ast.ArrayType:
			ast.Inspect(n.Elt, visit)
			return false
		case *ast.CallExpr: // how much room is made beforehand changes nothing
			if f, ok := n.Fun.(*ast.Ident); ok && f.Name == "make" && len(n.Args) > 1 {
				for _, a := range n.Args[:len(n.Args)-1] {
					ast.Inspect(a, visit)
				}
				if _, isMap := n.Args[0].(*ast.MapType); !isMap && len(n.Args) == 2 {
					ast.Inspect(n.Args[1], visit)
				}
				return false
			}
		case *ast.BinaryExpr:
			limit := n.Op == token.LSS || n.Op == token.LEQ || n.Op == token.GTR || n.Op == token.GEQ
			if other, ok := swaps[n.Op]; ok && !(limit && fractions(is, n.X)) {
				add(n.OpPos, n.OpPos+token.Pos(len(n.Op.String())), other.String(), n.Op.String()+" becomes "+other.String())
			}
		case *ast.IfStmt:
			add(n.Cond.Pos(), n.Cond.End(), "!("+string(src[fs.Position(n.Cond.Pos()).Offset:fs.Position(n.Cond.End()).Offset])+")",
				"the condition is turned round")
		case *ast.BasicLit:
			if v, err := strconv.Atoi(n.Value); n.Kind == token.INT && err == nil {
				add(n.Pos(), n.End(), strconv.Itoa(v+1), n.Value+" becomes "+strconv.Itoa(v+1))
			}
		case *ast.Ident:
			if n.Name == "true" || n.Name == "false" {
				other := map[string]string{"true": "false", "false": "true"}[n.Name]
				add(n.Pos(), n.End(), other, n.Name+" becomes "+other)
			}
		case *ast.ExprStmt: // a call whose result nobody takes
			add(n.Pos(), n.End(), "", "the call is left out")
		}
		return true
	}
	ast.Inspect(f, visit)
	return out, nil
}

// noticed runs the tests of packages with a break in place, until some notice; err says that it does not compile.
func noticed(pkgs []string, m mutant, work string) (bool, error) {
	src, err := os.ReadFile(m.file)
	if err != nil {
		return false, err
	}
	broken := filepath.Join(work, "broken.go")
	if err := os.WriteFile(broken, bytes.Join([][]byte{src[:m.from], []byte(m.text), src[m.to:]}, nil), 0o600); err != nil {
		return false, err
	}
	overlay, err := json.Marshal(map[string]map[string]string{"Replace": {m.file: broken}})
	if err != nil {
		return false, err
	}
	list := filepath.Join(work, "overlay.json")
	if err := os.WriteFile(list, overlay, 0o600); err != nil {
		return false, err
	}
	for _, pkg := range pkgs {
		test := filepath.Join(work, "test")
		if out, err := exec.Command("go", "test", "-c", "-vet=off", "-overlay", list, "-o", test, pkg).CombinedOutput(); err != nil {
			return false, fmt.Errorf("%w: %s", err, out)
		}
		dir, err := exec.Command("go", "list", "-f", "{{.Dir}}", pkg).Output()
		if err != nil {
			return false, err
		}
		run := exec.Command(test, "-test.failfast", "-test.timeout", "4m")
		run.Dir = strings.TrimSpace(string(dir))
		err = run.Run()
		var exit *exec.ExitError
		if errors.As(err, &exit) {
			return true, nil
		} else if err != nil {
			return false, err
		}
	}
	return false, nil
}

func main() {
	n := flag.Int("n", 40, "breaks of each package")
	seed := flag.Uint64("seed", 1, "which")
	only := flag.String("file", "", "one file of the package")
	also := flag.String("also", "", "a package whose tests may notice what its own do not")
	flag.Parse()
	for _, pkg := range flag.Args() {
		if err := try(pkg, *only, *also, *n, *seed); err != nil {
			fmt.Fprintln(os.Stderr, err)
			os.Exit(1)
		}
	}
}

// try breaks lines of a package and prints what was not noticed, and the share that was.
func try(pkg, only, also string, n int, seed uint64) error {
	out, err := exec.Command("go", "list", "-f", "{{.ImportPath}}\n{{.Dir}}\n{{range .GoFiles}}{{.}}\n{{end}}", pkg).Output()
	if err != nil {
		return fmt.Errorf("there is no package %s: %w", pkg, err)
	}
	lines := strings.Fields(string(out))
	path, dir := lines[0], lines[1]
	var names []string
	for _, name := range lines[2:] {
		if only == "" || name == only {
			names = append(names, name)
		}
	}
	all, err := mutants(dir, names)
	if err != nil {
		return err
	}
	tests := []string{path}
	if also != "" {
		tests = append(tests, also)
	}
	r := rand.New(rand.NewPCG(seed, seed))
	r.Shuffle(len(all), func(i, k int) { all[i], all[k] = all[k], all[i] })
	var mu sync.Mutex
	var left []string
	tried, seen, next := 0, 0, 0
	var wait sync.WaitGroup
	for range 2 {
		wait.Go(func() {
			work, err := os.MkdirTemp("", "mutate")
			if err != nil {
				panic(err)
			}
			defer os.RemoveAll(work)
			for {
				mu.Lock()
				if tried >= n || next >= len(all) {
					mu.Unlock()
					return
				}
				m := all[next]
				next++
				mu.Unlock()
				found, err := noticed(tests, m, work)
				mu.Lock()
				if err == nil && tried < n {
					if tried++; found {
						seen++
					} else {
						left = append(left, fmt.Sprintf("%s:%d: %s", strings.TrimPrefix(m.file, dir+"/"), m.line, m.what))
					}
				}
				mu.Unlock()
			}
		})
	}
	wait.Wait()
	sort.Strings(left)
	for _, l := range left {
		fmt.Println("  " + l)
	}
	fmt.Printf("%s: %d of %d breaks noticed, %.0f %%\n", path, seen, tried, 100*float64(seen)/float64(max(1, tried)))
	return nil
}

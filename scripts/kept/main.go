// Kept takes of a module what this one reaches: the declarations, unchanged, that the named packages are built of, as a module of the same
// path, which go.mod then puts in the place of the whole one ("replace"). A module may bring hundreds of megabytes of samples, or a
// typesetter for one function that nobody calls; only who runs this downloads it.
//
//	go run ./scripts/kept MODULE@VERSION third_party/NAME PACKAGE...
//
// PACKAGE... are the packages that use it. A method is kept where it is called by its name, and where its type is kept and somebody might
// ask for it through an interface. To take a newer version, or when something is used that was left out, run it again
// (third_party/README.md has the commands).
package main

import (
	"bytes"
	"cmp"
	"flag"
	"fmt"
	"go/ast"
	"go/format"
	"go/parser"
	"go/token"
	"go/types"
	"io/fs"
	"log"
	"os"
	"os/exec"
	"path"
	"path/filepath"
	"slices"
	"strconv"
	"strings"

	"golang.org/x/tools/go/packages"
)

// asked are methods that the standard library asks for by way of interfaces.
var asked = strings.Fields(`String Error Unwrap Is As Read Write Close Seek ReadAt WriteAt ReadByte UnreadByte WriteByte WriteString ReadRune ReadFrom WriteTo
	Len Less Swap Push Pop Bounds At ColorModel RGBA Set SetRGBA64 RGBA64At Convert MarshalText UnmarshalText MarshalJSON UnmarshalJSON MarshalBinary Format GoString Scan Value Reset Sum Size BlockSize`)

type declaration struct {
	pkg  *packages.Package
	file *ast.File
	node ast.Node // what is read when it is kept
}

type keeper struct {
	module  string
	within  map[string]*packages.Package
	decls   map[types.Object]*declaration
	methods map[*types.TypeName][]*types.Func
	kept    map[*declaration]bool
	types   map[*types.TypeName]bool
	names   map[string]bool // of methods that interfaces ask for
	todo    []*declaration
}

func main() {
	log.SetFlags(0)
	flag.Parse()
	if flag.NArg() < 3 {
		log.Fatal("kept MODULE@VERSION FOLDER PACKAGE...")
	}
	module, _, ok := strings.Cut(flag.Arg(0), "@")
	if !ok {
		log.Fatal("the module needs a version: MODULE@VERSION")
	}
	if err := run(module, flag.Arg(0), flag.Arg(1), flag.Args()[2:]); err != nil {
		log.Fatal(err)
	}
}

func run(module, versioned, folder string, users []string) error {
	work, err := os.MkdirTemp("", "kept")
	if err != nil {
		return err
	}
	defer os.RemoveAll(work)
	mod := filepath.Join(work, "go.mod")
	for _, args := range [][]string{
		{"cp", "go.mod", "go.sum", work},
		{"go", "mod", "edit", "-dropreplace=" + module, "-require=" + versioned, mod},
	} {
		if out, err := exec.Command(args[0], args[1:]...).CombinedOutput(); err != nil {
			return fmt.Errorf("%s: %w\n%s", strings.Join(args, " "), err, out)
		}
	}
	loaded, err := packages.Load(&packages.Config{
		Mode: packages.NeedName | packages.NeedFiles | packages.NeedSyntax | packages.NeedTypes | packages.NeedTypesInfo |
			packages.NeedDeps | packages.NeedImports | packages.NeedModule | packages.NeedEmbedFiles,
		BuildFlags: []string{"-modfile=" + mod, "-mod=mod"},
	}, users...)
	if err != nil {
		return err
	}
	k := &keeper{module: module, within: map[string]*packages.Package{}, decls: map[types.Object]*declaration{},
		methods: map[*types.TypeName][]*types.Func{},
		kept:    map[*declaration]bool{}, types: map[*types.TypeName]bool{}, names: map[string]bool{}}
	for _, n := range asked {
		k.names[n] = true
	}
	packages.Visit(loaded, nil, func(p *packages.Package) {
		if len(p.Errors) > 0 {
			err = cmp.Or(err, error(p.Errors[0]))
		}
		if p.Module != nil && p.Module.Path == module {
			k.within[p.PkgPath] = p
			for _, f := range p.Syntax {
				k.declare(p, f)
			}
		}
	})
	if err != nil {
		return err
	}
	for _, p := range loaded {
		for _, o := range p.TypesInfo.Uses {
			k.reach(o)
		}
		for _, s := range p.TypesInfo.Selections {
			k.reach(s.Obj())
		}
	}
	k.walk()
	return k.write(folder)
}

// declare notes what a file declares.
func (k *keeper) declare(p *packages.Package, f *ast.File) {
	add := func(name *ast.Ident, d *declaration) {
		if o := p.TypesInfo.Defs[name]; o != nil {
			k.decls[o] = d
		}
		if name.Name == "_" || name.Name == "init" {
			k.todo = append(k.todo, d) // kept with its package, see walk
		}
	}
	for _, decl := range f.Decls {
		switch decl := decl.(type) {
		case *ast.FuncDecl:
			d := &declaration{p, f, decl}
			add(decl.Name, d)
			if fn, ok := p.TypesInfo.Defs[decl.Name].(*types.Func); ok && decl.Recv != nil {
				if t := named(fn.Type().(*types.Signature).Recv().Type()); t != nil {
					k.methods[t] = append(k.methods[t], fn)
				}
			}
		case *ast.GenDecl:
			if decl.Tok == token.IMPORT {
				continue
			}
			whole := &declaration{p, f, decl}
			for _, spec := range decl.Specs {
				d := whole // constants count on
				if decl.Tok != token.CONST && len(decl.Specs) > 1 {
					d = &declaration{p, f, spec}
				}
				switch spec := spec.(type) {
				case *ast.TypeSpec:
					add(spec.Name, d)
				case *ast.ValueSpec:
					for _, n := range spec.Names {
						add(n, d)
					}
				}
			}
		}
	}
}

func named(t types.Type) *types.TypeName {
	if p, ok := t.(*types.Pointer); ok {
		t = p.Elem()
	}
	if n, ok := types.Unalias(t).(*types.Named); ok {
		return n.Origin().Obj()
	}
	return nil
}

// reach keeps what an object is declared by.
func (k *keeper) reach(o types.Object) {
	switch v := o.(type) {
	case *types.Func:
		o = v.Origin()
		if r := v.Type().(*types.Signature).Recv(); r != nil && types.IsInterface(r.Type()) {
			k.names[v.Name()] = true
		}
	case *types.Var:
		o = v.Origin()
	case *types.TypeName:
		if i, ok := v.Type().Underlying().(*types.Interface); ok && o.Pkg() != nil && k.within[o.Pkg().Path()] != nil {
			for n := range i.NumMethods() {
				k.names[i.Method(n).Name()] = true
			}
		}
		k.types[v] = true
	}
	if d := k.decls[o]; d != nil && !k.kept[d] {
		k.kept[d] = true
		k.todo = append(k.todo, d)
	}
}

// walk reads what is kept until nothing new is reached. What a package does when it begins is kept of packages that are reached otherwise.
func (k *keeper) walk() {
	begins := k.todo
	k.todo = nil
	for d := range k.kept {
		k.todo = append(k.todo, d)
	}
	for {
		for len(k.todo) > 0 {
			d := k.todo[len(k.todo)-1]
			k.todo = k.todo[:len(k.todo)-1]
			ast.Inspect(d.node, func(n ast.Node) bool {
				if id, ok := n.(*ast.Ident); ok {
					if o := d.pkg.TypesInfo.Uses[id]; o != nil {
						k.reach(o)
					}
					if o := d.pkg.TypesInfo.Defs[id]; o != nil {
						if t, ok := o.(*types.TypeName); ok {
							k.reach(t)
						}
					}
				}
				return true
			})
		}
		for t, list := range k.methods {
			for _, m := range list {
				if k.types[t] && k.names[m.Name()] {
					k.reach(m)
				}
			}
		}
		reached := map[*packages.Package]bool{}
		for d := range k.kept {
			reached[d.pkg] = true
		}
		for _, d := range begins {
			if reached[d.pkg] && !k.kept[d] {
				k.kept[d] = true
				k.todo = append(k.todo, d)
			}
		}
		if len(k.todo) == 0 {
			return
		}
	}
}

func (k *keeper) write(folder string) error {
	if err := os.RemoveAll(folder); err != nil {
		return err
	}
	for _, at := range sortedKeys(k.within) {
		p := k.within[at]
		to := filepath.Join(folder, strings.TrimPrefix(at, k.module))
		embeds := false
		for _, f := range p.Syntax {
			name := p.Fset.File(f.Pos()).Name()
			text, err := k.file(p, f, name)
			if err != nil {
				return fmt.Errorf("%s: %w", name, err)
			}
			if text == nil {
				continue
			}
			embeds = embeds || bytes.Contains(text, []byte("//go:embed"))
			head := fmt.Sprintf("// Code generated by scripts/kept from %s %s. DO NOT EDIT.\n\n", p.Module.Path, p.Module.Version)
			if err := put(filepath.Join(to, strings.TrimSuffix(filepath.Base(name), ".go")+".gen.go"),
				append([]byte(head), text...)); err != nil {
				return err
			}
		}
		if embeds {
			for _, name := range p.EmbedFiles {
				data, err := os.ReadFile(name)
				if err != nil {
					return err
				}
				rel, err := filepath.Rel(p.Dir, name)
				if err != nil {
					return err
				}
				if err := put(filepath.Join(to, rel), data); err != nil {
					return err
				}
			}
		}
	}
	if err := k.papers(folder); err != nil {
		return err
	}
	tidy := exec.Command("go", "mod", "tidy")
	tidy.Dir = folder
	if out, err := tidy.CombinedOutput(); err != nil {
		return fmt.Errorf("go mod tidy: %w\n%s", err, out)
	}
	return nil
}

// papers are the license and what the module needs.
func (k *keeper) papers(folder string) error {
	var dir, version string
	for _, p := range k.within {
		dir, version = p.Module.Dir, p.Module.Version
	}
	list, err := fs.Glob(os.DirFS(dir), "*")
	if err != nil {
		return err
	}
	for _, name := range list {
		upper := strings.ToUpper(name)
		if strings.HasPrefix(upper, "LICENSE") || strings.HasPrefix(upper, "NOTICE") || strings.HasPrefix(upper, "COPYING") ||
			name == "go.mod" {
			data, err := os.ReadFile(filepath.Join(dir, name))
			if err != nil {
				return err
			}
			if err := put(filepath.Join(folder, name), data); err != nil {
				return err
			}
		}
	}
	about := fmt.Sprintf("Of %s %s, what is reached from here: declarations are as they were, all others are left out.\nMade by scripts/kept; nothing in this folder is written by hand.\n", k.module, version)
	return put(filepath.Join(folder, "KEPT"), []byte(about))
}

// file is the text of a file without what is not kept; nil for nothing.
func (k *keeper) file(p *packages.Package, f *ast.File, name string) ([]byte, error) {
	source, err := os.ReadFile(name)
	if err != nil {
		return nil, err
	}
	at := func(pos token.Pos) int { return p.Fset.Position(pos).Offset }
	wanted := map[ast.Node]bool{}
	for d := range k.kept {
		if d.file == f {
			wanted[d.node] = true
		}
	}
	if len(wanted) == 0 {
		return nil, nil
	}
	var gone [][2]int
	drop := func(n ast.Node, doc, comment *ast.CommentGroup) {
		from, to := n.Pos(), n.End()
		if doc != nil {
			from = doc.Pos()
		}
		if comment != nil {
			to = comment.End()
		}
		gone = append(gone, [2]int{at(from), at(to)})
	}
	for _, decl := range f.Decls {
		if wanted[decl] {
			continue
		}
		switch decl := decl.(type) {
		case *ast.FuncDecl:
			drop(decl, decl.Doc, nil)
		case *ast.GenDecl:
			if decl.Tok == token.IMPORT {
				continue
			}
			if !slices.ContainsFunc(decl.Specs, func(s ast.Spec) bool { return wanted[s] }) {
				drop(decl, decl.Doc, nil)
				continue
			}
			for _, s := range decl.Specs {
				if wanted[s] {
					continue
				}
				switch s := s.(type) {
				case *ast.ValueSpec:
					drop(s, s.Doc, s.Comment)
				case *ast.TypeSpec:
					drop(s, s.Doc, s.Comment)
				}
			}
		}
	}
	slices.SortFunc(gone, func(a, b [2]int) int { return b[0] - a[0] })
	for _, g := range gone {
		source = append(source[:g[0]:g[0]], source[g[1]:]...)
	}
	return imports(p, source)
}

// imports drops what a file imports and no longer uses.
func imports(p *packages.Package, source []byte) ([]byte, error) {
	set := token.NewFileSet()
	f, err := parser.ParseFile(set, "", source, parser.ParseComments)
	if err != nil {
		return nil, err
	}
	used := map[string]bool{}
	ast.Inspect(f, func(n ast.Node) bool {
		if s, ok := n.(*ast.SelectorExpr); ok {
			if id, ok := s.X.(*ast.Ident); ok {
				used[id.Name] = true
			}
		}
		return true
	})
	var gone [][2]int
	for _, decl := range f.Decls {
		g, ok := decl.(*ast.GenDecl)
		if !ok || g.Tok != token.IMPORT {
			continue
		}
		left := len(g.Specs)
		var own [][2]int
		for _, s := range g.Specs {
			s := s.(*ast.ImportSpec)
			at, err := strconv.Unquote(s.Path.Value)
			if err != nil {
				return nil, err
			}
			name := path.Base(at)
			if q := p.Imports[at]; q != nil {
				name = q.Name
			}
			if s.Name != nil {
				name = s.Name.Name
			}
			if used[name] || name == "." || name == "embed" || name == "_" && bytes.Contains(source, []byte("//go:embed")) {
				continue
			}
			left--
			own = append(own, [2]int{set.Position(s.Pos()).Offset, set.Position(s.End()).Offset})
		}
		if left == 0 {
			own = [][2]int{{set.Position(g.Pos()).Offset, set.Position(g.End()).Offset}}
		}
		gone = append(gone, own...)
	}
	slices.SortFunc(gone, func(a, b [2]int) int { return b[0] - a[0] })
	for _, g := range gone {
		source = append(source[:g[0]:g[0]], source[g[1]:]...)
	}
	return format.Source(source)
}

func put(name string, data []byte) error {
	if err := os.MkdirAll(filepath.Dir(name), 0o755); err != nil {
		return err
	}
	return os.WriteFile(name, data, 0o644)
}

func sortedKeys(m map[string]*packages.Package) []string {
	var out []string
	for k := range m {
		out = append(out, k)
	}
	slices.Sort(out)
	return out
}

package main

import (
	"fmt"
	"io"
	"net/url"
	"strings"
	"time"

	"github.com/CycloneDX/cyclonedx-go"
)

// materials writes what it is made of (CycloneDX): each with the address of its package, for whoever looks for known weaknesses.
func (r release) materials() error {
	bom := cyclonedx.NewBOM()
	bom.Metadata = &cyclonedx.Metadata{
		Timestamp: r.at.Format(time.RFC3339),
		Component: &cyclonedx.Component{BOMRef: "huekeep", Type: cyclonedx.ComponentTypeApplication, Name: "huekeep", Version: r.version,
			Properties: &[]cyclonedx.Property{{Name: "commit", Value: r.commit}}},
	}
	list, needs := []cyclonedx.Component{}, []string{}
	for _, p := range r.parts {
		at := purl(p)
		list = append(list, cyclonedx.Component{BOMRef: at, Type: cyclonedx.ComponentTypeLibrary, Name: p.Name, Version: p.Version,
			PackageURL: at})
		needs = append(needs, at)
	}
	bom.Components = &list
	bom.Dependencies = &[]cyclonedx.Dependency{{Ref: "huekeep", Dependencies: &needs}}
	return create(r.name(".cdx.json"), func(w io.Writer) error {
		e := cyclonedx.NewBOMEncoder(w, cyclonedx.BOMFileFormatJSON)
		return e.SetPretty(true).EncodeVersion(bom, cyclonedx.SpecVersion1_5)
	})
}

// purl is the package URL of a component: pkg:golang/golang.org/x/text@v0.30.0, pkg:npm/%40scope/name@1.2.3.
func purl(c component) string {
	parts := strings.Split(c.Name, "/")
	for i, p := range parts {
		parts[i] = strings.ReplaceAll(url.PathEscape(p), "@", "%40")
	}
	return fmt.Sprintf("pkg:%s/%s@%s", c.Kind, strings.Join(parts, "/"), url.PathEscape(c.Version))
}

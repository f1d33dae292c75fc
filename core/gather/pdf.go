package gather

import (
	"fmt"

	"huekeep/core/library"
)

// fromPDF takes the colors that a PDF paints with: as they are on a screen, builds of inks with their values, and spot inks by name with the
// full tone that the file gives them.
func fromPDF(name string, data []byte) (Found, error) {
	s, err := scan(name, data)
	if err != nil {
		return Found{}, err
	}
	found := Found{Label: "a PDF", Notes: s.Notes}
	at := map[string]int{}
	pictures := false
	for _, u := range s.Uses {
		switch {
		case u.Hidden || u.Why != "":
			continue
		case u.Pixels:
			pictures = true
			continue
		}
		c := Candidate{Color: seen(u.Color)}
		key := u.Name()
		i, inks := u.Ink()
		switch solid := u.Rare().Solid; {
		case i.Spot != "" && solid != nil:
			c.Name, c.RGB = i.Spot, *solid
		case i.Spot != "":
			if _, said := at[key]; !said {
				at[key] = -1
				found.Notes = append(found.Notes, fmt.Sprintf("The spot ink %s has no screen value that can be read from the file.", i.Spot))
			}
			continue
		case inks:
			c.Builds = []library.Build{{Press: "coated", Value: i.CMYK, For: u.RGB}}
		}
		n, ok := at[key]
		if !ok {
			n = len(found.Colors)
			at[key] = n
			found.Colors = append(found.Colors, c)
		}
		found.Colors[n].Uses += max(1, u.Count)
		found.Colors[n].Alpha = max(found.Colors[n].Alpha, u.Alpha)
	}
	for _, u := range s.Unread {
		found.Notes = append(found.Notes, fmt.Sprintf("%s was not read: %s.", u.Path, u.Why))
	}
	if pictures {
		found.Notes = append(found.Notes, "Pictures inside the PDF were not read; drop them as pictures.")
	}
	return found, nil
}

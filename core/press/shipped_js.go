package press

import "fmt"

// The browser loads the profiles one by one, when they are asked for.
var brought = map[string][]byte{}

// own are the conditions that the page brought under names of its own.
var own = map[string]*Condition{}

func another(name string) (*Condition, bool) {
	c, ok := own[name]
	return c, ok
}

func shipped(name string) ([]byte, error) {
	if data, ok := brought[name]; ok {
		return data, nil
	}
	return nil, fmt.Errorf("the press condition %q was not loaded", name)
}

// Bring gives the profile of a condition, before it is asked for: of one that ships, or of another one under a name of its own.
func Bring(name string, profile []byte) error {
	brought[name] = profile
	if _, ships := loaded[name]; ships {
		return nil
	}
	c, err := New(name, name, 400, profile)
	if err == nil {
		own[name] = c
	}
	return err
}

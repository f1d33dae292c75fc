package e2e

import (
	"context"
	"encoding/json"
	"flag"
	"io"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/go-rod/rod/lib/input"
	"github.com/go-rod/rod/lib/proto"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// guidePictures has the pictures of the guide taken anew.
var guidePictures = flag.Bool("guide", false, "take the pictures of the guide anew")

// guideTask is a task of the guide, as its page reads it.
type guideTask struct {
	ID, Title, Why string
	Steps          []guideStep
}

type guideStep struct {
	Say    string
	At     string // where it begins, below the house; empty where the step before led
	On     string // what is meant, as a selector
	Text   string // which of those, as a pattern
	Type   string // is typed there
	Choose string // is chosen there
	Press  string // is pressed after that
	Look   bool   // it is only looked at
	See    string // shows afterward
	Shot   string // the picture of the task is taken before or after the step
}

// The guide is true: each of its steps can be done as it says, in the demo house, and shows what it says. What it shows is what it leads to.
func TestTheGuide(t *testing.T) {
	data, err := os.ReadFile("../ui/src/guide/tasks.json")
	require.NoError(t, err)
	var tasks []guideTask
	require.NoError(t, json.Unmarshal(data, &tasks))
	require.Len(t, tasks, 17)
	u := visit(t)
	require.NoError(t, u.keeper.Audits.LoadDemo(context.Background()))
	u.enter("keeper")
	for _, task := range tasks {
		shots := 0
		shoot := func(s guideStep, when string) {
			if s.Shot != when {
				return
			}
			shots++
			file := filepath.Join("../ui/src/guide/pictures", task.ID+".webp")
			if !*guidePictures {
				assert.FileExists(t, file, "make screenshots takes it")
				return
			}
			quality := 72
			u.page.MustEval(`() => document.querySelector('[role=status] button')?.blur()`)
			time.Sleep(600 * time.Millisecond)
			pic, err := u.page.Screenshot(false, &proto.PageCaptureScreenshot{Format: proto.PageCaptureScreenshotFormatWebp, Quality: &quality})
			require.NoError(t, err)
			require.NoError(t, os.WriteFile(file, pic, 0o644))
		}
		for i, s := range task.Steps {
			if s.At != "" {
				u.open("/h/1" + s.At)
			} else {
				require.NotZero(t, i, "%s begins somewhere", task.ID)
			}
			text := s.Text
			if text == "" {
				text = "^"
			}
			e := u.find(s.On, text)
			if s.Type == "" {
				shoot(s, "before")
			}
			switch {
			case s.Look:
			case s.Choose != "":
				e.MustSelect(s.Choose)
			case s.Type != "":
				e.MustSelectAllText().MustInput(s.Type)
				shoot(s, "before")
			default:
				u.click(s.On, text)
			}
			if s.Press == "Enter" {
				u.press(input.Enter)
			}
			if s.See != "" {
				u.see("body", s.See)
			}
			shoot(s, "after")
		}
		assert.Equal(t, 1, shots, "%s has one picture", task.ID)
	}

	// The page: found by typing, and "show me" leads to the field, with a mark.
	u.open("/h/1/guide")
	u.see("h1", "Guide")
	u.see("main", tasks[14].Title)
	u.page.MustElement("input[aria-label='Find in the guide']").MustInput("printer")
	out, err := u.page.PDF(&proto.PagePrintToPDF{PrintBackground: true})
	require.NoError(t, err)
	book, err := io.ReadAll(out)
	require.NoError(t, err)
	file := filepath.Join(t.TempDir(), "guide.pdf")
	require.NoError(t, os.WriteFile(file, book, 0o600))
	if _, err := exec.LookPath("pdftotext"); err == nil || os.Getenv("CI") != "" {
		text, err := exec.Command("pdftotext", file, "-").Output()
		require.NoError(t, err)
		for _, task := range tasks {
			assert.Contains(t, strings.Join(strings.Fields(string(text)), " "), task.Title, "the handbook has every task")
		}
	}
	u.see("main a", tasks[1].Title)
	assert.False(t, u.page.MustHasR("main a", tasks[6].Title))
	u.click("main a", tasks[1].Title)
	u.see("h1", tasks[1].Title)
	u.accessible("a page of the guide")
	u.click("main a", "^show me$")
	u.see("[data-shown]", "here")
	assert.Contains(t, u.page.MustInfo().URL, "/h/1/library")
}

package trail_test

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"huekeep/keep/trail"
)

func TestTheTrailSpeaksInSentences(t *testing.T) {
	for want, e := range map[string]trail.Entry{
		"amended Buoy: #E2572B → #DD5522":                                        {What: "changeColor", About: "Buoy", Before: `{"hex":"#E2572B"}`, After: `{"hex":"#DD5522"}`},
		"retired Old Funnel":                                                     {What: "changeColor", About: "Old Funnel", Before: `{"status":"approved"}`, After: `{"status":"retired","successor_id":2}`},
		"amended Fog: rule nothing → On glass only":                              {What: "changeColor", About: "Fog", Before: `{"rule":""}`, After: `{"rule":"On glass only"}`},
		"amended something":                                                      {What: "changeColor"},
		"replaced the library by library.json":                                   {What: "restoreLibrary", After: `{"asked":{"replace":"true","uploaded":"library.json"}}`},
		"added library.json to the library":                                      {What: "restoreLibrary", After: `{"asked":{"replace":"false","uploaded":"library.json"}}`},
		"put a.css, b.css, c.css, d.css, e.css and 3 more into the project Site": {What: "addProjectFiles", About: "Site", After: `{"asked":{"files":["a.css","b.css","c.css","d.css","e.css","f.css","g.css","h.css"]}}`},
		"took a.css out of the project Site":                                     {What: "dropProjectFile", About: "Site", After: `{"asked":{"path":"a.css"}}`},
		"approved 0 70 90 5 for coated as build of Buoy":                         {What: "approveBuild", About: "Buoy", After: `{"asked":{"value":"0 70 90 5","press":"coated"}}`},
		"withdrew edition 2 of Core: it has the wrong orange":                    {What: "withdrawEdition", About: "Core", After: `{"asked":{"number":"2","why":"it has the wrong orange"}}`},
		"changed how files are judged: tolerance 3 → 2.5":                        {What: "setJudging", About: "Odelwick Ferries", Before: `{"tolerance":3}`, After: `{"tolerance":2.5}`},
		"renamed the project Site: name Site → Web":                              {What: "renameProject", About: "Site", Before: `{"name":"Site"}`, After: `{"name":"Web"}`},
		"signed in":                  {What: "signed in"},
		"founded the house Odelwick": {What: "founded the house", About: "Odelwick"},
		"judged the file":            {What: "createAudit", After: `{"cut":"{\"asked"}`},
	} {
		assert.Equal(t, want, e.Said())
	}
	assert.Equal(t, "amended something", trail.InWords("changeColor"))
	assert.Equal(t, "amended Buoy (refused)", trail.Entry{What: "changeColor", About: "Buoy", Outcome: 409}.Said(), "it was not done")
	assert.Equal(t, "amended Buoy (failed)", trail.Entry{What: "changeColor", About: "Buoy", Outcome: 500}.Said())
	assert.Equal(t, "took a.css [b] {c} out of the project Site", trail.Entry{What: "dropProjectFile", About: "Site", After: `{"asked":{"path":"a.css [b] {c}"}}`}.Said())
}

module github.com/pdfcpu/pdfcpu

go 1.25.0

require (
	go.yaml.in/yaml/v3 v3.0.5
	golang.org/x/image v0.44.0
	golang.org/x/text v0.40.0
)

module huekeep

go 1.26.8

require (
	github.com/stretchr/testify v1.12.1
	golang.org/x/image v0.47.0
)

require (
	github.com/tdewolff/parse/v2 v2.8.20 // indirect
	go.yaml.in/yaml/v3 v3.0.5 // indirect
)

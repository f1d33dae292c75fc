module huekeep

go 1.26.8

require (
	github.com/stretchr/testify v1.12.1
	golang.org/x/image v0.47.0
)

require (
	github.com/inconshreveable/mousetrap v1.1.0 // indirect
	github.com/spf13/cobra v1.10.2 // indirect
	github.com/spf13/pflag v1.0.9 // indirect
	github.com/tdewolff/parse/v2 v2.8.20 // indirect
	go.yaml.in/yaml/v3 v3.0.5 // indirect
)

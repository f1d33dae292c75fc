module github.com/tdewolff/canvas

go 1.23.0

toolchain go1.24.2

require (
	github.com/benoitkugler/textprocessing v0.0.3
	github.com/go-text/typesetting v0.3.0
	github.com/srwiley/scanx v0.0.0-20190309010443-e94503791388
	github.com/tdewolff/font v0.0.0-20250430140153-b654fd8acba3
	github.com/tdewolff/minify/v2 v2.23.4
	github.com/tdewolff/parse/v2 v2.8.0
	golang.org/x/image v0.27.0
	golang.org/x/text v0.25.0
)

require (
	github.com/BurntSushi/freetype-go v0.0.0-20160129220410-b763ddbfe298 // indirect
	github.com/BurntSushi/graphics-go v0.0.0-20160129215708-b43f31a4a966 // indirect
	github.com/BurntSushi/xgb v0.0.0-20210121224620-deaf085860bc // indirect
	github.com/BurntSushi/xgbutil v0.0.0-20190907113008-ad855c713046 // indirect
	github.com/andybalholm/brotli v1.1.1 // indirect
	github.com/benoitkugler/textlayout v0.3.1 // indirect
	github.com/golang/freetype v0.0.0-20170609003504-e2365dfdc4a0 // indirect
	github.com/srwiley/scanFT v0.0.0-20220128184157-0d1ee492111f // indirect
)

require (
	github.com/srwiley/oksvg v0.0.0-20221011165216-be6e8873101c // indirect
	github.com/srwiley/rasterx v0.0.0-20220730225603-2ab79fcdd4ef
	golang.org/x/net v0.40.0 // indirect
)

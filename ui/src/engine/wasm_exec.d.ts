// Go's loader; the build copies it from the Go installation, so that it always fits the compiler.
export {};

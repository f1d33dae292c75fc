# Tells lines of Go of over 140 characters, a tab counting four and a text of the program two: what a person reads has its own length.
FNR == 1 { raw = 0 }
{
	line = $0
	gsub(/\t/, "    ", line)
	gsub(/'`'/, "' '", line)
	ticks = gsub(/`/, "`", line)
	within = raw
	if (ticks % 2) raw = !raw # a text of several lines begins or ends
	if (within || raw || line ~ /^ *\/\/go:/) next
	gsub(/"([^"\\]|\\.)*"/, "\"\"", line)
	gsub(/`[^`]*`/, "``", line)
	if (length(line) > 140) print FILENAME ":" FNR ": a line of over 140 characters"
}

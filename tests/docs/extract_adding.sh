#!/usr/bin/env bash
# Writes the code of docs/adding.md to files: a block after "<!-- file: NAME -->" to NAME, one after "<!-- line: WHAT -->"
# to WHAT_line.inc.
set -eu
page=$1 out=$2
mkdir -p "$out"
awk -v out="$out" '
  /^<!-- file: / { name = $3; next }
  /^<!-- line: / { name = $3 "_line.inc"; next }
  /^```cpp/ && name != "" { writing = 1; printf "" > (out "/" name); next }
  /^```/ { if (writing) { close(out "/" name); writing = 0; name = "" } next }
  writing { print > (out "/" name) }' "$page"

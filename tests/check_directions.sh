#!/usr/bin/env bash
# Each room includes only what stands below it (ARCHITECTURE.md); core has no Qt; the grid names no ready item view; the
# tests that comments name are there.
set -u
top=$1
bad=0
complain() { printf '%s\n' "$1"; bad=1; }
# room: the core rooms it may include
declare -A allowed=(
  [base]="base" [columns]="base columns" [rules]="base columns rules" [pictures]="base pictures" [formats]="base columns pictures formats"
  [rows]="base columns rules rows" [sources]="base columns rules pictures formats sources" [design]="base columns rules formats rows design"
  [exports]="base columns rules formats rows design exports" [editing]="base columns rules formats rows sources editing"
  [session]="base columns rules pictures formats rows sources design exports editing session")
for room in "${!allowed[@]}"; do
  while read -r file included; do
    [[ " ${allowed[$room]} " == *" $included "* ]] || complain "$file includes core/$included, which room $room may not"
  done < <(grep -rhoHE '#include "core/[a-z]+' "$top/core/$room" | sed -E 's/:#include "core\// /')
done
grep -rnE '#include [<"](Q[A-Z]|Qt)' "$top/core" && complain "Qt inside core"
grep -rnE '#include "(workbench|commands|demo)/' "$top/core" "$top/grid" && complain "an include upwards"
# qt_members.h says how Qt's types stand in objects' fields; it opens nothing.
grep -rnE '#include "core/sources' "$top/grid" --exclude=qt_members.h && complain "the grid names a source"
grep -rnwE 'QTableView|QTableWidget|QTreeView|QHeaderView|QSortFilterProxyModel|QSqlTableModel|QStyledItemDelegate' "$top/core" "$top/grid" && complain "a ready item view in the grid"
for header in $(cd "$top" && find core grid -name "*.h"); do
  grep -q '#pragma once' "$top/$header" || complain "$header has no #pragma once"
done
while read -r named; do
  [ -e "$top/$named" ] || complain "a comment names $named, which is not there"
done < <(grep -rhoP '(?<![a-z])(tests|bench|docs)/[a-zA-Z0-9_/-]+\.(cpp|h|sh|md)' "$top/core" "$top/grid" "$top/workbench" "$top/commands" "$top/demo" --include=*.cpp --include=*.h | sort -u)
exit $bad

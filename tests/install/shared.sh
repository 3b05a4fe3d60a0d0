#!/usr/bin/env bash
# Usage: shared.sh FOLDER INCLUDE GUEST COMPILER WORK     FOLDER: where libkiteknot.so is
set -euo pipefail
folder=$1 include=$2 guest=$3 compiler=$4 work=$5
library=$folder/libkiteknot.so
told=$(objdump -p "$library")
grep -q 'SONAME  *libkiteknot.so.1$' <<<"$told" || { echo "no stated ABI version"; exit 1; }
shown=$(nm -D --defined-only --demangle "$library" | cut -d' ' -f3-)
for inside in mip lp linalg structures report formats methods study workbench; do
  # Values of the standard library over what is inside are weak, and named by it.
  if hidden=$(grep -E "^kiteknot::$inside::" <<<"$shown"); then
    echo "$(wc -l <<<"$hidden") names of kiteknot::$inside are shown, such as $(head -1 <<<"$hidden")"
    exit 1
  fi
done
grep -q '^kiteknot::solve(' <<<"$shown" || { echo "solve is not shown"; exit 1; }
"$compiler" -std=c++20 -I"$include" "$guest" -L"$folder" -lkiteknot -Wl,-rpath,"$folder" -o "$work/guest_shared"
"$work/guest_shared"

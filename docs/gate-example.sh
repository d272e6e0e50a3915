#!/usr/bin/env bash
# Fails (exit 3) when the frame of PROJECT is shown to be slower than BASELINE by more than ALLOWED percent. The first run writes the baseline.
set -euo pipefail
project=${1:?project (.mirolux)} baseline=${2:?baseline (.json)} allowed=${3:-10}
cli=${MIROLUX_CLI:-mirolux-cli} size=${SIZE:-640x360} rounds=${ROUNDS:-25}
measure=("$cli" measure "$project" --size "$size" --rounds "$rounds" --log)
if [[ ! -f $baseline ]]; then
    "${measure[@]}" --json "$baseline"
    echo "baseline written: $baseline"
    exit 0
fi
code=0
"${measure[@]}" --baseline "$baseline" --regression "$allowed" --json "${baseline%.json}.latest.json" || code=$?
"$cli" journal "$project" --html "${baseline%.json}.journal.html" > /dev/null
exit "$code"

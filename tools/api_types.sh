#!/usr/bin/env bash
# Write the API's schema and the TypeScript types made from it. With --check, only say whether they are up to date.
set -euo pipefail
here=$(dirname "$(dirname "$(readlink -f "${BASH_SOURCE[0]}")")")
api=$here/web/src/api
out=$api
[ "${1:-}" != --check ] || out=$(mktemp -d)
(cd "$here/server" && "$here/.local/venv/bin/python" manage.py export_openapi_schema --api config.api.api --indent 1 --output "$out/openapi.json")
(cd "$here/web" && node_modules/.bin/openapi-typescript "$out/openapi.json" -o "$out/schema.ts" >/dev/null)
if [ "$out" != "$api" ]; then
  for file in openapi.json schema.ts; do
    cmp -s "$out/$file" "$api/$file" || { echo "web/src/api/$file is out of date: run tools/api_types.sh" >&2; exit 1; }
  done
fi

# `./start --dev`; sourced by it. The web comes from vite, which passes on what is the server's; the server begins anew when Python is saved,
# and kernels that an edit asks for are compiled behind.
web_port=${NINEGLASS_WEB_PORT:-8430}

compile_as_saved() {
  touch "$local/compiled-at"
  "$python" -m nineglass.warm
  while sleep 1; do
    [ -n "$(find core/nineglass -name '*.py' -newer "$local/compiled-at" -print -quit)" ] || continue
    touch "$local/compiled-at"
    "$python" -m nineglass.warm
  done
}

develop() {
  trap 'kill 0' EXIT
  compile_as_saved >"$local/kernels.log" 2>&1 &
  (cd web && NINEGLASS_SERVER="http://$address:$port" NINEGLASS_WEB_PORT=$web_port npm run -s dev) &
  (
    for _ in $(seq 100); do is_ours && break; sleep 0.1; done
    show_link "$web_port"
  ) &
  cd server
  NINEGLASS_SERVES=1 "$python" -m uvicorn config.asgi:application --host "$address" --port "$port" "${proxy[@]}" --log-level warning --ws-per-message-deflate false \
    --timeout-graceful-shutdown 3 --reload --reload-dir . --reload-dir ../core
  exit
}

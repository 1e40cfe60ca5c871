# `./test --quick PART`; sourced by it.
quick() {
  local part=$1 found=()
  for file in core/tests/test_*.py browser/test_*.py server/*/tests/test_*.py; do
    case $file in
      core/tests/test_"$part".py) found+=("tests.test_$part") ;;
      browser/test_"${part#browser/}".py) found+=("browser.test_${part#browser/}") ;;
      server/"$part"/tests/*) found+=("$part") ;;
    esac
  done
  if [ ${#found[@]} -eq 0 ]; then
    say "parts:" core/tests/test_*.py server/*/tests/ browser/test_*.py | sed -E 's#core/tests/test_|server/|/tests/|browser/test_|\.py##g'
    exit 2
  fi
  database
  exec "$python" server/manage.py test --noinput "${found[@]}" 2>&1
}

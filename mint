#!/usr/bin/env bash
# Mint Tally's one script: installs what is missing, builds what has changed, and runs it.
set -euo pipefail
invoked_from=$PWD
home=$(cd "$(dirname "$(readlink -f "${BASH_SOURCE[0]}")")" && pwd)
cd "$home"
export MINT_TALLY_HOME=$home

say() { printf '%s\n' "$*" >&2; }
fail() { say "mint: $*"; exit 2; }

usage() {
  cat <<'TEXT'
Usage: ./mint COMMAND

  start   run the application in the browser: http://127.0.0.1:4680
  check FOLDER [--brief FILE.json] [--level names|headers|full] [--assay] [--json]
          count the frames in a folder, without a database or a server
  assay FOLDER --brief FILE.json [--json]
          measure noise and light of the frames in a folder, without a database or a server
  denoise FOLDER --brief FILE.json --pass NAME --out FOLDER [--strength light|middle|strong|NUMBER] [--frames 1|3|5|7]
          [--with-lights] [--range R] [--json]
          take noise out of a pass, and with it out of the lights that sum to it, and write its frames to another folder, without a database or a server
  mend FOLDER --brief FILE.json (--rename | --trim | --renumber N | --plan FILE.json) [--apply] [--json]
  mend FOLDER --undo [--json]
          say what would be renamed or set aside, do it with --apply, and take it back, without a database or a server
  package FOLDER --brief FILE.json --out FOLDER [--passes A,B] [--range R] [--volume-size 4GB] [--tar | --link | --clone]
          [--sums sha512,xxh64] [--without-handles] [--waive "NAME: REASON"] [--json]
          make a package of frames that are ready, in volumes where that is asked, without a database or a server
  movie FOLDER --brief FILE.json --pass NAME --out FILE.mp4|.webm|.mov|.gif|.webp [--quality N | --bitrate 20M] [--size WxH] [--view srgb|rec709|linear]
        [--exposure STOPS] [--background COLOUR] [--burn-in] [--sound FILE.wav] [--codec h264|hevc|vp9|av1|prores] [--range R] [--note TEXT]
        [--keys all] [--beside FOLDER | --split FOLDER] [--json]
          make a review movie of a pass as it is seen in the application, and read it back, without a database or a server
  sheet FOLDER --brief FILE.json --out FILE.png|.pdf [--passes A,B] [--range R] [--most N] [--columns N] [--ground dark|light]
        [--view srgb|rec709|linear|log] [--exposure STOPS] [--background COLOUR] [--note TEXT] [--json]
          make a contact sheet of frames as they are seen in the application, without a database or a server
  verify FOLDER [--receipt FILE.json] [--person NAME] [--json]
          say whether a package is whole and as it was packed, and count its frames again, without a database or a server
  test    run every test: formats, rules, database, and the application in a browser
  bench   measure speed against named yardsticks
  help    show this
TEXT
}

need_node() {
  command -v node >/dev/null || fail 'Node.js 20.19 or later is needed, and there is no node on the PATH.'
  local version major minor
  version=$(node --version)
  IFS=. read -r major minor _ <<<"${version#v}"
  [ "$major" -gt 20 ] || { [ "$major" -eq 20 ] && [ "$minor" -ge 19 ]; } || fail "Node.js 20.19 or later is needed; this is $version."
}

# True when nothing in the places named is newer than the stamp: neither a file nor a folder, which
# changes with what is taken out of it or put into it. Sums are made only when this is not so.
is_older() {
  local stamp=$1
  shift
  [ -f "$stamp" ] && [ -z "$(find "$@" -newer "$stamp" -print -quit)" ]
}

# Writes a stamp with the time at which the look at its sources began: what changes while
# something is built is newer.
write_stamp() {
  local stamp=$1 wanted=$2 began=$3
  printf '%s' "$wanted" >"$stamp"
  touch -d "$began" "$stamp"
}

# Installs the Node packages when the lockfile has changed since they were.
need_packages() {
  local stamp=node_modules/.mint-stamp wanted began
  is_older "$stamp" package-lock.json && return
  began=$(date +@%s.%N)
  wanted=$(sha256sum package-lock.json | cut -d' ' -f1)
  [ -f "$stamp" ] && [ "$(cat "$stamp")" = "$wanted" ] && { write_stamp "$stamp" "$wanted" "$began"; return; }
  say 'Installing the Node packages (npm ci) …'
  npm ci --no-audit --no-fund --loglevel=error >&2 || fail 'npm ci did not succeed; its message stands above.'
  write_stamp "$stamp" "$wanted" "$began"
}

# Installs Debian packages that are missing: itself where it may, else it says the line to run.
# Each argument names a package and a program that shows it is there, as package=program.
need_debian() {
  local missing=() pair
  for pair in "$@"; do
    # A package is known by a command that it brings, or by a file.
    case "${pair#*=}" in
      /*) [ -e "${pair#*=}" ] || missing+=("${pair%%=*}") ;;
      *) PATH=$PATH:/usr/sbin command -v "${pair#*=}" >/dev/null || missing+=("${pair%%=*}") ;;
    esac
  done
  [ ${#missing[@]} -eq 0 ] && return
  local how=()
  if [ "$(id -u)" -ne 0 ]; then
    sudo -n true 2>/dev/null && how=(sudo -n) || fail "Debian packages are missing. Run: sudo apt-get install --yes ${missing[*]}"
  fi
  command -v apt-get >/dev/null || fail "These packages are missing, and there is no apt-get: ${missing[*]}"
  say "Installing Debian packages: ${missing[*]} …"
  local log
  log=$(mktemp)
  { "${how[@]}" apt-get update -qq && "${how[@]}" env DEBIAN_FRONTEND=noninteractive apt-get install --yes --no-install-recommends "${missing[@]}"; } >"$log" 2>&1 ||
    { tail -n 5 "$log" >&2; rm -f "$log"; fail "apt-get did not succeed; its last lines stand above."; }
  rm -f "$log"
}

# Node reads the extra certificates that this names at every start, a tenth of a second each time;
# commands open no connection that needs one. npm, which may, has run by then; the application may reach a render
# service by one, and keeps them.
forget_certificates() { unset NODE_EXTRA_CA_CERTS; }

# Compiles the kernels to WebAssembly when their sources have changed since.
need_kernels() {
  local made=packages/core/src/kernels/compiled.ts stamp=build/kernels.mint-stamp wanted began
  [ -f "$made" ] && is_older "$stamp" packages/core/kernels scripts/build-kernels.mjs package-lock.json && return
  began=$(date +@%s.%N)
  wanted=$(find packages/core/kernels scripts/build-kernels.mjs package-lock.json -type f -print0 | sort -z | xargs -0 sha256sum | sha256sum | cut -d' ' -f1)
  [ -f "$made" ] && [ -f "$stamp" ] && [ "$(cat "$stamp")" = "$wanted" ] && { write_stamp "$stamp" "$wanted" "$began"; return; }
  node scripts/build-kernels.mjs >&2 || fail 'The kernels could not be compiled; the message stands above.'
  mkdir -p build
  write_stamp "$stamp" "$wanted" "$began"
}

# Bundles the services when their sources have changed since.
need_services() {
  local stamp=build/services/.mint-stamp wanted began
  is_older "$stamp" packages/*/src scripts package-lock.json && return
  began=$(date +@%s.%N)
  wanted=$(find packages/*/src scripts package-lock.json -type f -print0 | sort -z | xargs -0 sha256sum | sha256sum | cut -d' ' -f1)
  [ -f "$stamp" ] && [ "$(cat "$stamp")" = "$wanted" ] && { write_stamp "$stamp" "$wanted" "$began"; return; }
  node scripts/build-services.mjs >&2 || fail 'The services could not be built; the message stands above.'
  write_stamp "$stamp" "$wanted" "$began"
}

# Builds the web application when its sources have changed since.
need_web() {
  local stamp=packages/web/build/.mint-stamp wanted began
  began=$(date +@%s.%N)
  wanted=$(find packages/web packages/*/src package-lock.json -type f -not -path '*/node_modules/*' -not -path 'packages/web/build/*' -not -path '*/.svelte-kit/*' -print0 | sort -z | xargs -0 sha256sum | sha256sum | cut -d' ' -f1)
  [ -f "$stamp" ] && [ "$(cat "$stamp")" = "$wanted" ] && { write_stamp "$stamp" "$wanted" "$began"; return; }
  say 'Building the application …'
  local log
  log=$(mktemp)
  npm run build --workspace @mint-tally/web >"$log" 2>&1 || { tail -n 30 "$log" >&2; rm -f "$log"; fail 'The application could not be built; the messages stand above.'; }
  rm -f "$log"
  write_stamp "$stamp" "$wanted" "$began"
}

# Runs one check that has no count of its own: it passes or fails as a whole.
check_whole() {
  say "— $1"
  if "${@:2}" >&2; then passed=$((passed + 1)); else failed=$((failed + 1)); say "FAILED: $1"; fi
}

# Adds the counts of a report to the sums; a report that is not there counts as one failure.
add_report() {
  local counts
  counts=$(node scripts/count-tests.mjs "$1") || counts='0 1'
  passed=$((passed + ${counts% *}))
  failed=$((failed + ${counts#* }))
}

# What the page showed when a test in the browser failed; the folder is gone before anybody could look.
show_pages() {
  find test-results -name error-context.md | head -5 | while read -r file; do
    say "— $file"
    head -c 6000 "$file"
  done
}

wait_for_lint() { wait "$lint" || { cat "$reports/lint"; return 1; }; }

run_tests() {
  passed=0 failed=0
  reports=$(mktemp -d)
  trap 'rm -rf "$reports"' EXIT
  # Either keeps one processor busy: side by side they take half the time.
  npm run --silent lint >"$reports/lint" 2>&1 &
  lint=$!
  check_whole 'types' npm run --silent types
  # Beside the tests it would take the time from them that some of them count.
  check_whole 'lint and format' wait_for_lint
  say '— tests of the packages'
  npx vitest run --reporter=default --reporter=json --outputFile.json="$reports/vitest.json" >&2 || true
  add_report "$reports/vitest.json"
  say '— the application in a browser'
  rm -f test-results/report.json
  npx playwright test >&2 || show_pages >&2
  add_report test-results/report.json
  printf '%s passed, %s failed\n' "$passed" "$failed"
  [ "$failed" -eq 0 ] && [ "$passed" -gt 0 ]
}

command=${1:-help}
[ $# -gt 0 ] && shift
case $command in
  start)
    need_node; need_debian mariadb-server=mariadbd ffmpeg=ffmpeg; need_packages; need_kernels; need_services; need_web
    exec node --enable-source-maps build/services/start.js
    ;;
  check | assay | denoise | mend | package | movie | sheet | verify)
    need_node; [ "$command" != movie ] || need_debian ffmpeg=ffmpeg; need_packages; forget_certificates; need_kernels; need_services
    cd "$invoked_from"
    exec node "$home/build/services/$command.js" "$@"
    ;;
  test)
    need_node; need_debian mariadb-server=mariadbd chromium=chromium ffmpeg=ffmpeg; need_packages; forget_certificates; need_kernels; need_services; need_web
    run_tests
    ;;
  bench)
    need_node; need_debian pngcheck=pngcheck g++=g++ libopenexr-dev=/usr/include/OpenEXR/ImfInputFile.h libtiff-dev=/usr/share/doc/libtiff-dev libjpeg-dev=/usr/share/doc/libjpeg-dev imagemagick=convert openimageio-tools=oiiotool libtiff-tools=tiffcp chromium=chromium; need_packages; forget_certificates; need_kernels; need_services
    need_web
    node build/services/bench.js "$@"
    [ $# -gt 0 ] || { node build/services/bench-pages.js; node scripts/bench-playing.mjs; exec node scripts/bench-ribbon.mjs; }
    ;;
  help | --help | -h) usage ;;
  *) say "mint: there is no command $command."; usage >&2; exit 2 ;;
esac

#!/usr/bin/env bash
# Makes the pictures of docs/screenshots again from the demo data, each in a real terminal window of 1280x800.
#
#   tools/take_pictures.sh          all of them
#   tools/take_pictures.sh bench    those whose name begins so
#
# Needs Debian's xvfb, xterm, xdotool, imagemagick and fonts-dejavu-core.
set -euo pipefail
cd "$(dirname "$0")/.."
only=${1:-}
folder=docs/screenshots
work=$(mktemp -d /tmp/shop-XXXX)
mkdir -p "$folder"
for tool in Xvfb xterm xdotool import; do
    command -v "$tool" >/dev/null || { echo "take_pictures: $tool is missing (apt install xvfb xterm xdotool imagemagick fonts-dejavu-core)" >&2; exit 69; }
done
# Compiled once, the program need not be compiled at each start: keys must not come before its first frame.
.venv/bin/python -m compileall -q src
exec 3< <(exec Xvfb -displayfd 1 -screen 0 1280x800x24 -nolisten tcp -noreset 2>/dev/null)
screen=$!
read -r number <&3
export DISPLAY=:$number
trap 'kill "$screen" 2>/dev/null; rm -rf "$work"' EXIT

# A batch of thirty equal desks, three of which differ.
mkdir -p "$work/reading-room"
for number in $(seq -w 1 30); do
    echo "A1=-; A2=16G DDR4-3200 maker Quillmark serial 7A$number; B1=-; B2=16G DDR4-3200 maker Quillmark serial 7B$number; run 3200; total 32G" \
        >"$work/reading-room/desk-$number.txt"
done
echo "A1=16G DDR4-3200; A2=16G DDR4-3200; B1=-; B2=-; run 3200; total 32G" >"$work/reading-room/desk-07.txt"
echo "A1=-; A2=16G DDR4-3200; B1=-; B2=-; run 3200; total 16G" >"$work/reading-room/desk-13.txt"
echo "A1=-; A2=16G DDR4-3200; B1=-; B2=16G DDR4-3200; run 2400; total 32G" >"$work/reading-room/desk-21.txt"

# picture NAME THEME KEYS ... : starts the demo again, sends the keys ("type:TEXT" types it), takes the picture.
picture() {
    local name=$1 theme=$2 window key
    shift 2
    [[ $name == "$only"* ]] || return 0
    mkdir -p "$work/config/after-check"
    printf 'theme = "%s"\nsoak_memory = "6G"\nshop_name = "Skarrow Bench"\n' "$theme" >"$work/config/after-check/settings.toml"
    rm -f "$work/demo.db"
    env -u TMUX xterm -fa 'DejaVu Sans Mono' -fs 12 -geometry 128x40+0+0 -bw 0 -b 0 +sb -xrm 'XTerm*allowTitleOps:false' \
        -e env XDG_CONFIG_HOME="$work/config" XDG_DATA_HOME="$work/data" COLORTERM=truecolor TERM=xterm-256color \
        .venv/bin/after-check demo --shop "$work/demo.db" &
    local terminal=$!
    for _ in $(seq 60); do
        window=$(xdotool search --onlyvisible --class xterm 2>/dev/null | head -1 || true)
        [[ -n $window ]] && break
        sleep 0.1
    done
    [[ -n $window ]] || { echo "take_pictures: no window opened for $name" >&2; return 70; }
    xdotool windowfocus "$window" 2>/dev/null || true
    sleep 8
    for key in "$@"; do
        case $key in
        type:*) xdotool type --window "$window" --delay 30 "${key#type:}" ;;
        wait:*) sleep "${key#wait:}" ;;
        *) xdotool key --window "$window" "$key" ;;
        esac
        sleep 1.2
    done
    sleep 2.5
    import -window root -strip "$work/$name.png"
    .venv/bin/python tools/check_pictures.py "$work/$name.png" || { kill "$terminal" 2>/dev/null; return 70; }
    mv "$work/$name.png" "$folder/$name.png"
    echo "$folder/$name.png"
    kill "$terminal" 2>/dev/null || true
    wait "$terminal" 2>/dev/null || true
}

picture bench skarrow-night
picture job-sheet skarrow-night slash type:sonogram Return
picture job-sheet-light skarrow-day slash type:kiosk Return
picture job-sheet-contrast skarrow-contrast slash type:camera Return
picture reading skarrow-night slash type:sonogram Return r \
    "type:was 8gb, now 2 sticks of 24gb ddr5, profile 1 on, dual channel, shows 3200 mhz, wants 96 next year" wait:2
picture before-fitting skarrow-night slash "type:map tower" Return f
picture modules skarrow-night slash "type:map tower" Return m
picture ceilings skarrow-night slash "type:map tower" Return c
picture soak skarrow-night n "type:Gauge desk, Larkfield T1, Tide-gauge office" ctrl+s wait:2 s 1 y wait:18
picture benchmark skarrow-night slash "type:spectrum" Return g
picture demand skarrow-night n "type:Gauge desk, Larkfield T1, Tide-gauge office" Return "type:2x8gb ddr4 2400" Return "type:24G" ctrl+s wait:2 d l type:18G Return wait:2 y wait:62
picture compare skarrow-night slash "type:sonogram" Return v
picture card skarrow-night slash "type:map tower" Return k
picture new-job skarrow-night n "type:Tide desk, Larkfield T1, Tide-gauge office" Return \
"type:A2: 8gb ddr4 2400, B2: 8gb, A1 and B1 empty, runs at 1200 mhz, dual channel" wait:1 Down Right Return
picture tries skarrow-night slash "type:tide archive" Return t x x wait:6
picture hands skarrow-night slash "type:tide archive" Return t x x wait:6 F6 wait:3
picture start-watch skarrow-night slash "type:radio" Return t w space wait:4
picture hand-back skarrow-night slash "type:sonogram" Return h wait:3
picture batch skarrow-night r o "type:$work/reading-room" Return "type:2x16G DDR4-3200; dual" Return wait:6 Down

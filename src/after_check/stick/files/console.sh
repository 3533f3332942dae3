#!/bin/sh
# Opens After Check on the console: its own letters and colours, its partition of the stick, nothing else.
stick=/run/after-check/stick
for word in $(cat /proc/cmdline); do
    case "$word" in aftercheck.data=*) number="${word#aftercheck.data=}" ;; esac
done
mkdir -p "$stick"
if ! mountpoint -q "$stick"; then
    fsck.vfat -a "/dev/disk/by-uuid/$number" >/dev/null 2>&1
    mount -t vfat -o rw,noatime,flush,utf8=1,umask=077 "/dev/disk/by-uuid/$number" "$stick" || echo "the stick takes no results" >&2
fi
udevadm settle --timeout=15
# What the system and the program do not need at the moment is packed: that leaves more memory to test.
if modprobe zram num_devices=1 2>/dev/null; then
    echo 256M > /sys/block/zram0/disksize && mkswap /dev/zram0 >/dev/null && swapon /dev/zram0
    echo 100 > /proc/sys/vm/swappiness
    echo 0 > /proc/sys/vm/page-cluster
fi
# The largest letters that leave a hundred columns, by the size of the picture.
letters=8x16
if [ -r /sys/class/graphics/fb0/virtual_size ]; then
    wide=$(cut -d, -f1 /sys/class/graphics/fb0/virtual_size)
    for size in 10x20 12x24 16x32; do
        [ $((wide / ${size%x*})) -ge 100 ] && letters=$size
    done
fi
setfont "/opt/after-check/letters-$letters.psf" 2>/dev/null
setvtrgb /opt/after-check/colours 2>/dev/null
printf '\033[?25l\033[9;0]\033[14;0]'
printf '\033[2J\033[3;4H\033[93mAfter Check\033[37m starts. It takes some seconds.'
. /opt/after-check/environment
export TERM=linux COLORTERM=truecolor
export HOME=/run/after-check XDG_DATA_HOME=/run/after-check/data XDG_CONFIG_HOME=/run/after-check/config
export XDG_STATE_HOME=/run/after-check/state XDG_CACHE_HOME=/run/after-check/cache
exec python3 -m after_check stick run --stick "$stick"

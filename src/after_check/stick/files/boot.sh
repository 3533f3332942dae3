# How the stick's system is mounted: one partition, found by its number alone. No other disk is looked into or mounted.
# Read by the initial RAM file system, whose function `mountroot` this is (initramfs-tools(7), "Boot scripts").

mountroot() {
    for word in $(cat /proc/cmdline); do
        case "$word" in aftercheck.system=*) number="${word#aftercheck.system=}" ;; esac
    done
    modprobe -a -q xhci_pci ehci_pci ohci_pci uhci_hcd sdhci_pci sdhci_acpi rtsx_pci rtsx_usb mmc_block
    modprobe -a loop squashfs overlay vfat nls_cp437 nls_iso8859-1 nls_ascii nls_utf8 usb_storage uas sd_mod 2>/dev/null
    tried=0
    until [ -b "/dev/disk/by-uuid/$number" ]; do
        tried=$((tried + 1))
        if [ "$tried" -gt 120 ]; then
            panic "After Check: the stick's own partition ($number) does not show up. Try another socket, one at the back if there is one."
        fi
        sleep 0.5
    done
    mkdir -p /run/after-check/system /run/after-check/image /run/after-check/top
    mount -t vfat -o ro "/dev/disk/by-uuid/$number" /run/after-check/system || panic "After Check: the stick cannot be read."
    loop=$(losetup -f)
    losetup -r "$loop" /run/after-check/system/live/system.squashfs || panic "After Check: the system on the stick is damaged."
    mount -t squashfs -o ro "$loop" /run/after-check/image || panic "After Check: the system on the stick is damaged."
    mount -t tmpfs -o size=96m,mode=755 tmpfs /run/after-check/top
    mkdir -p /run/after-check/top/upper /run/after-check/top/work
    mount -t overlay -o lowerdir=/run/after-check/image,upperdir=/run/after-check/top/upper,workdir=/run/after-check/top/work \
        overlay "$rootmnt"
}

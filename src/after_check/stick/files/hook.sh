#!/bin/sh
# Puts what `boot.sh` needs into the initial RAM file system (initramfs-tools(7), "Hook scripts").
[ "$1" = prereqs ] && exit 0
. /usr/share/initramfs-tools/hook-functions
# Only what leads to the stick: all that goes into memory here is missing from the test.
manual_add_modules xhci_pci xhci_hcd ehci_pci ehci_hcd ohci_pci ohci_hcd uhci_hcd usb_storage uas sd_mod sg
manual_add_modules sdhci_pci sdhci_acpi mmc_block rtsx_pci rtsx_pci_sdmmc rtsx_usb rtsx_usb_sdmmc usbhid hid_generic
manual_add_modules loop squashfs overlay fat vfat nls_cp437 nls_iso8859-1 nls_ascii nls_utf8
copy_exec /sbin/losetup /sbin

"""Where readings come from: this machine, SSH, Redfish, folders, files, photos; the one list of the files of a machine."""

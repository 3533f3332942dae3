# Gathers what a machine says about its memory into one text file, for After Check on another computer.
#
#   powershell -ExecutionPolicy Bypass -File collect.ps1 [FILE]
#
# It reads, and changes nothing. It needs nothing installed (version 5 or later).
# On the other computer:  after-check read FILE
param([string]$Out = "after-check-$($env:COMPUTERNAME -replace '[^A-Za-z0-9-]', '').txt")
$ErrorActionPreference = 'Stop'

# What is read: these classes of the system's own management data.
$classes = 'Win32_PhysicalMemory', 'Win32_PhysicalMemoryArray', 'Win32_ComputerSystem', 'Win32_OperatingSystem'
$wanted = @{
    'Win32_PhysicalMemory'      = 'Capacity', 'Speed', 'ConfiguredClockSpeed', 'ConfiguredVoltage', 'FormFactor', 'SMBIOSMemoryType',
                                  'MemoryType', 'DataWidth', 'TotalWidth', 'Manufacturer', 'PartNumber', 'SerialNumber', 'DeviceLocator',
                                  'BankLabel'
    'Win32_PhysicalMemoryArray' = 'MaxCapacity', 'MaxCapacityEx', 'MemoryDevices', 'Use', 'MemoryErrorCorrection'
    'Win32_ComputerSystem'      = 'Manufacturer', 'Model', 'SystemFamily', 'TotalPhysicalMemory', 'HypervisorPresent'
    'Win32_OperatingSystem'     = 'OSArchitecture', 'TotalVisibleMemorySize'
}

if (Test-Path -LiteralPath $Out) {
    [Console]::Error.WriteLine("$Out is there already: name another file, or take it away")
    exit 73
}
[Console]::Error.WriteLine("This will be read:")
foreach ($class in $classes) { [Console]::Error.WriteLine("  ${class}: $($wanted[$class] -join ', ')") }

$found = [ordered]@{}
$lines = [System.Collections.Generic.List[string]]::new()
$lines.Add('after-check collection 1')
foreach ($class in $classes) {
    try {
        $found[$class] = @(Get-CimInstance -ClassName $class | Select-Object -Property $wanted[$class])
    } catch {
        [Console]::Error.WriteLine("not read: $class ($($_.Exception.Message))")
        $lines.Add("@rights $class")
    }
}
$lines.Add('@json cim')
foreach ($line in ((ConvertTo-Json -InputObject $found -Depth 4) -split "`r?`n")) { $lines.Add($line) }
$lines.Add('@end')

# The check sum covers every line above it, as UTF-8 with a line feed behind each.
$text = ($lines -join "`n") + "`n"
$bytes = [System.Text.Encoding]::UTF8.GetBytes($text)
$sha = [System.Security.Cryptography.SHA256]::Create().ComputeHash($bytes)
$sum = -join ($sha | ForEach-Object { $_.ToString('x2') })
[System.IO.File]::WriteAllBytes((Join-Path (Get-Location) $Out), $bytes + [System.Text.Encoding]::UTF8.GetBytes("@sha256 $sum`n"))
[Console]::Error.WriteLine("Written: $Out. Take it to the other computer, and there: after-check read $Out")

# What a finding rests on, in a few words; its source is behind it.

evidence-now = now { $size }
evidence-wanted =
    { $against ->
        [promised] promised { $size }
        [arrival] there on arrival { $size }
       *[fitted] fitted { $size }
    }
evidence-limit = limit { $size }
evidence-bits-32 = 32-bit system
evidence-usable = usable { $size }
evidence-redundancy = { $how } memory
evidence-borrows = graphics may borrow { $size }
evidence-slot-empty = { $slot } empty
evidence-slot-filled = { $slot } filled
evidence-modules-seen =
    { $modules ->
        [one] one module seen
       *[other] { $modules } modules seen
    }
evidence-seen = seen { $size }{ in-slot }
evidence-not-known = { $named } not known
evidence-difference = { $difference }
evidence-fact = { $what } { $now }
evidence-swapped = { $slot } holds another one than promised
evidence-basis = { $basis }
evidence-channels = { channels }
evidence-channel = channel { $channel }: { $slots }
evidence-node = node { $node }: { $size }
evidence-earlier-channels = { earlier-channels } on arrival
evidence-channels-now = { channels } now
evidence-order = machine data sheet of { $machine }: { $asked }
evidence-data-sheet = machine data sheet of { $machine }: { $limit }
evidence-data-sheet-rate = machine data sheet of { $machine }: { $limit } MT/s
evidence-listed-parts = machine data sheet of { $machine }: listed parts
evidence-corrected = { $errors } corrected
evidence-uncorrected = { $errors } uncorrected
evidence-counter-uncorrected = { $label }: { $errors } uncorrected
evidence-error-correction =
    { $on ->
        [yes] error correction on
       *[no] error correction off
    }
evidence-settings-cleared = settings cleared
evidence-memory-changed = memory changed
evidence-version-before = { $version } on arrival
evidence-version-now = { $version } now
evidence-group = { $group }: { $members }
evidence-timings = runs { $timings }
evidence-voltage = { $voltage } now
evidence-pending = restart pending
evidence-profile = profile { $state }
evidence-no-profile =
    { $slot ->
        [none] one module
       *[other] { $slot }
    } holds no profile
evidence-runs = runs at { $rate } MT/s
evidence-promised-rate = promised { $rate } MT/s
evidence-rate-before = { $rate } MT/s on arrival
evidence-rate-now = { $rate } MT/s now
evidence-size-before = { $size } on arrival
evidence-all-counted = { $size } counted, all that the modules add up to
evidence-size-now = { $size } now
evidence-virtual = { $where }
evidence-stickers = no total, rate or channels of the machine
evidence-notice = { $where }: { $what }
evidence-contradiction = { $contradiction }
evidence-doubt = { $doubt }
evidence-two-machines = { two-machines }
evidence-start = start { $outcome }
evidence-benchmark = benchmark { $outcome }
evidence-measured = benchmark, { $now } { $unit }
evidence-peak = at its peak { $peak }
evidence-hot = hot during the memory test
evidence-off-under-load = switches off under load
evidence-tries =
    { $tries ->
        [one] 1 tries
       *[other] { $tries } tries
    }
evidence-no-test = no result of a test
evidence-wanting = { wanting }
evidence-symptom =
    { $errors ->
        [one] 1 error
       *[other] { $errors } errors
    }: { $kind_words }, { symptom }
evidence-test =
    { $errors ->
        [0] clean
       *[other] { $errors } errors
    }{ $minutes ->
        [none] { "" }
       *[other] , { $minutes } minutes
    }{ $passes ->
        [none] { "" }
        [one] , 1 whole pass
       *[other] , { $passes } whole passes
    }{ $percent ->
        [none] { "" }
       *[other] , { $percent } % covered
    }{ $by ->
        [none] { "" }
       *[other] , { $by }
    }{ $own_word ->
        [yes] , the machine's own word
       *[no] { "" }
    }

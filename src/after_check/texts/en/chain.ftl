# A finding as one link of a chain: cause, what follows from it, and so on. A few words, no verb where none is needed.
# Where a finding has no link here, the beginning of its title is taken.

link-capacity-short = { $now } of { $wanted }
link-capacity-system-limit = { $usable } of { $total } usable
link-module-missing =
    { $named_count ->
        [0] { $missing ->
            [one] a module not seen
           *[other] { $missing } modules not seen
        }
       *[other] { $named } shows empty
    }
link-module-short = { $seen } of { $whole }{ in-slot }
link-module-unexpected =
    { $more ->
        [one] one module too many
       *[other] { $more } modules too many
    }
link-module-differs =
    { $modules ->
        [one] another module
       *[other] other modules
    }{ in-named }
link-channels-single =
    { $promised ->
        [none] { channels }
       *[other] { $channels } of { promised-channels }
    }
link-channels-fewer = { $channels } of { earlier-channels }
link-channels-wrong-slots = wrong slots
link-channels-partial = partly on { channels }
link-ecc-off = no error correction
link-firmware-reset = settings cleared
link-limit-total = more than documented
link-limit-module = larger than documented
link-mix-generation = generations mixed
link-mix-form = another form
link-mix-buffered = kinds mixed
link-mix-ecc = ECC mixed
link-timings-mixed = timings differ
link-timings-loose = timings { $runs }
link-timings-slower = first word after { $now } ns
link-profile-off =
    { $state ->
        [off] profile off
       *[other] profile { $state } on
    }
link-profile-locked = no profile to choose
link-profile-hidden = no profile for all
link-rate-pending-restart = restart pending
link-rate-slower = { $now } MT/s, { $before } before
link-rate = { $running } of { $target } MT/s
link-start-none = no start
link-soak-errors =
    { $errors ->
        [one] 1 error
       *[other] { $errors } errors
    }
link-gauge-short = { $now } of { $promised } { $unit }
link-gauge-worse = slower than before
link-cause-found = { $suspects }
link-cause-outside = not the memory
link-cause-open = cause not clear yet
link-bandwidth = { $now } of { $promised } GB/s at most

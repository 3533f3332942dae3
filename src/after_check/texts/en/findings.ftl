# What findings say: the title, and .reason, .next, .customer and .disproof (shown below 90 % sure).
# A size, a rate, a time or a voltage comes with its unit; $slots and the like are lists ("A1, A2 and B1"), $slots_count how many.

## Parts that several messages share

in-slot =
    { $slot ->
        [none] { "" }
       *[other] { " in" } { $slot }
    }
in-named =
    { $named_count ->
        [0] { "" }
       *[other] { " in" } { $named }
    }
promised-and-seen =
    { $promised ->
        [one] 1 module was promised
       *[other] { $promised } modules were promised
    }, { $modules ->
        [one] 1 is seen
       *[other] { $modules } are seen
    }
channels =
    { $channels ->
        [1] one channel
        [2] two channels
        [3] three channels
        [4] four channels
       *[other] { $channels } channels
    }
promised-channels =
    { $promised ->
        [1] one channel
        [2] two channels
        [3] three channels
        [4] four channels
       *[other] { $promised } channels
    }
earlier-channels =
    { $earlier ->
        [1] one channel
        [2] two channels
        [3] three channels
        [4] four channels
       *[other] { $earlier } channels
    }

## The amount of memory

capacity-short =
    { $now } of { $wanted } { $against ->
        [arrival] there on arrival
        [promised] promised
       *[fitted] fitted
    }
    .reason =
        { $why ->
            [mirrored] A setting of the firmware keeps memory back: every byte is kept twice (mirrored), so half of what is fitted can be used.
            [spare] A setting of the firmware keeps memory back: ranks are kept in reserve for the case that others fail.
            [bits-32] The system uses { $now } of { $total }: that is what a 32-bit system reaches, however much is fitted. Whether it is one was not read.
            [limit] { $counted_by ->
                [firmware] The firmware counts
               *[modules] The modules add up to
            } { $total } and the system uses just under { $limit }, as under a limit of the system's edition or of its start options.
            [gap] { $counted_by ->
                [firmware] The firmware counts
               *[modules] The modules add up to
            } { $total } and the system can use { $usable }: the difference is as much as half a module, more than graphics or the firmware keep for themselves.
            [halved] The listed modules add up to { $listed } and exactly half of it is counted, as where a setting keeps every byte twice (mirrored) or holds ranks in reserve.
            [sizeless] { $slot } shows a module without a size, and { $unseen } of { $wanted } are not seen.
            [uncounted] The listed modules add up to { $listed }; { $uncounted } of it are not counted.
           *[unseen] { $unseen } of { $wanted } are not seen.
        }
    .next =
        { $why ->
            [mirrored] Ask whether the customer wants it so; else turn the setting off, save, start, and read again.
            [spare] Ask whether the customer wants it so; else turn the setting off, save, start, and read again.
            [bits-32] See whether the system is a 32-bit one and type bits 32 or bits 64; if it is not, reseat the modules and read again.
            [limit] Look up what this edition of the system may use, and its start options; type limit { $limit_typed } if that is it.
            [gap] Look for a memory limit in the system's start options and the firmware setup, then reseat the modules and read again.
            [halved] Look for mirroring and spare ranks in the firmware setup, and type mirrored or spare if it is on; else reseat the modules and read again.
            [sizeless] Power off and reseat the module in { $slot }, start, and read again; then try it alone in a slot that works.
            [uncounted] Reseat the modules, start, and read again; then try each one alone.
           *[unseen] Reseat the modules, look at the slots that show empty or too little, and read again.
        }
    .customer =
        The machine shows { $now } of memory; { $wanted } { $against ->
            [promised] was promised.
           *[fitted] should be there.
        }
    .disproof = The firmware page shows the full amount: then it is the system that does not use it.

capacity-over = { $now }, { $more } more than promised
    .reason =
        { $kept_back ->
            [yes] A part was to be kept back by a setting of the firmware, and all of it is counted.
           *[no] More memory is seen than was promised: another module was left in, or the promise is out of date.
        }
    .next =
        { $kept_back ->
            [yes] Turn the setting on in the firmware setup, or change the promise with the customer.
           *[no] Check that the fitted modules belong to this job, or change the promise.
        }
    .customer = The machine has { $now } of memory, more than the { $promised } agreed on.
    .disproof = Count the modules: as many as promised, with more on them, is another kind of module.

capacity-system-limit =
    The system can use { $usable } of { $total }{ $as_before ->
        [yes] , as on arrival
       *[no] { "" }
    }
    .reason =
        { $limit ->
            [none] The operating system is a 32-bit one, which reaches less than 4 GiB however much is fitted.
           *[other] The system's edition, or an option it starts with, allows { $limit }; what is fitted beyond it is not used.
        }
    .next =
        { $limit ->
            [none] Install a 64-bit system, or agree with the customer that the machine keeps using what it can.
           *[other] Take the limit out of the start options, install an edition that may use { $total }, or agree on { $limit } with the customer.
        }
    .customer =
        { $limit ->
            [none] { $total } is fitted, but the installed system can only use { $usable } of it; a 64-bit system would use all of it.
           *[other] { $total } is fitted, but the installed system is limited to { $limit }.
        }

capacity-redundant = { $held_back } of { $fitted } kept back: { $how }
    .reason =
        { $how ->
            [mirrored] Every byte is kept twice (mirrored), so half of what is fitted can be used.
           *[spare] Ranks are kept in reserve for the case that others fail.
        }
    .next = Nothing to fix if the customer wants it so; the setting is in the firmware setup.
    .customer = Of { $fitted } fitted, { $held_back } is kept back for safety by a setting.

capacity-reserved =
    { $gap_about ->
        [none] { $gap }
       *[other] About { $gap_about }
    } kept by firmware and system{ $graphics ->
        [none] { "" }
       *[other] , of which graphics take { $graphics }
    }{ $less ->
        [none] { "" }
       *[other] ; on arrival the system could use { $less } more
    }
    .reason =
        The system can use { $usable } of { $total }; the rest is reserved, { $notable ->
            [yes] more than is usual.
           *[no] which is normal.
        }
    .next =
        { $notable ->
            [yes] Look at the share of graphics in the firmware setup.
           *[no] Nothing to do.
        }
    .customer =
        The system shows { $usable }, as { $gap_about ->
            [none] { $gap }
           *[other] about { $gap_about }
        } is kept for graphics and the machine itself.
    .disproof = Set the share of graphics to its smallest in the firmware setup: the amount comes back if it was that.

capacity-borrowed =
    Graphics may borrow up to { $now }{ $before ->
        [none] { "" }
       *[other] , { $before } on arrival
    }
    .reason = Graphics without memory of their own use a part of the system's while they need it. Nothing is set aside for that.
    .next = Nothing to do.
    .customer =
        Graphics may use up to { $now } of the memory while a program needs it{ $before ->
            [none] { "" }
           *[other] , { $before } on arrival
        }.

## Modules

module-missing =
    { $missing ->
        [one] One module
       *[other] { $missing } modules
    } not seen{ $named_count ->
        [0] { "" }
        [one] : { $named } is empty
       *[other] : { $named } are empty
    }
    .reason =
        { promised-and-seen }{ $named_count ->
            [0] .{ $empty_count ->
                [0] { "" }
               *[other] { " " }The empty slots are { $empty }.
            }
            [one] , and { $named } reports empty.
           *[other] , and { $named } report empty.
        }
    .next = Power off and reseat the module: both latches up, an even line of contacts, the notch on the right side. If it stays away, try it alone in a slot that works, and another module in this slot.
    .customer =
        { $missing ->
            [one] One module of the new memory is not seen by the machine yet.
           *[other] { $missing } modules of the new memory are not seen by the machine yet.
        }
    .disproof = The module shows in another slot, or another module shows in this one.

module-short =
    The module{ in-slot } shows { $seen } of { $whole }
    .reason =
        { $why ->
            [kept] It is the module that showed { $whole } on arrival: a part of it makes no contact any more, or is faulty.
            [half-ranks] It has { $ranks } ranks and shows half of its size: ranks of it are switched off, make no contact, or are faulty.
            [half] It shows half of its size: one side of it makes no contact, or is faulty.
           *[less] It shows less than its size: part of it makes no contact, or another module was fitted.
        }
    .next = Power off, reseat the module and clean its contacts; then try it in another slot.
    .customer =
        { $why ->
            [kept] One of the machine's own modules shows { $seen } instead of { $whole }.
           *[less] One module shows { $seen } instead of { $whole }.
        }
    .disproof = Its sticker shows the smaller size, so that it is whole.

module-unexpected =
    { $more ->
        [one] A module
       *[other] { $more } modules
    } not promised{ $named_count ->
        [0] { "" }
       *[other] { " in" } { $named }
    }
    .reason = { promised-and-seen }.
    .next = Check whether an old module was left in, or change the promise.
    .customer = The machine holds more memory modules than agreed on.

module-unreadable = { $named }: content not known
    .reason = The reading lists the slot and does not say whether a module is in it, or how large it is.
    .next = Look at the slot, and type what is in it.
    .customer = The content of one slot could not be read.

module-differs =
    { $modules ->
        [one] The module{ in-named } is not as promised: { $difference }
       *[other] { $modules } modules{ in-named } are not as promised: { $difference }
    }
    .reason = What was promised and what the modules say of themselves are different.
    .next = Fit the promised module, or agree on this one with the customer and change the promise.
    .customer = The memory{ in-named } is of another kind than agreed on.

promise-differs = Not as promised, { $what }: { $now }, { $promised } promised
    .reason = What was promised and what the machine shows are different.
    .next = Set it as promised and read again, or change the promise with the customer.
    .customer = Not as agreed, { $what }: { $now } instead of { $promised }.

slots-elsewhere = Not in the promised slots: { $named } filled, { $left } promised
    .reason = The promise names the slots, and the machine shows the modules in others.
    .next = Put the modules into { $left } and read again, or change the promise with the customer.
    .customer = The memory modules sit in other slots than agreed on.

slots-swapped = In other slots than promised: { $named }
    .reason = The modules are those that were promised, and sit in each other's slots.
    .next = Nothing to fix where rate and channels are as promised; else put each into its slot and read again.
    .customer = The memory modules sit in other slots than written down; that alone does no harm.

## Channels

channels-single =
    Runs on { channels }{ $against ->
        [promised] , { $promised } promised
        [one] , with one module
       *[more] { " with" } { $modules } modules
    }
    .reason =
        { $why ->
            [missing] This follows from the module that is not seen: its channel has no memory.
            [one] One module makes one channel.
            [shown] The memory runs on { channels }, as the machine shows it.
           *[worked-out] The memory runs on { channels }, { $basis }.
        }
    .next =
        { $why ->
            [missing] See to the missing module first, then read again.
            [one] A second module of the same size in the other channel would double the bandwidth.
           *[other] Check that each channel has a module, reseat them, and read the channel mode again.
        }
    .customer =
        The memory works on { channels }{ $against ->
            [promised] { " instead of" } { promised-channels }.
           *[other] ; a matching second module would help more than speed does.
        }
    .disproof = The firmware page shows more channels, or a measured bandwidth is more than these carry.

channels-wrong-slots = Wrong slots: { $modules } modules on { channels }
    .reason = { $from } shares a channel with another module, while the channel of { $to } is empty.
    .next =
        { $moves_count ->
            [one] Power off and move the module { $moves }; then read again.
           *[other] Power off and move the modules { $moves }; then read again.
        }
    .customer = The modules sit in slots that make them share one memory channel; moving one makes the memory faster.

channels-partial = Partly on { channels }: { $parts }
    .reason =
        The channels hold different amounts. What all of them hold is spread over all; the rest is not.{ $mean ->
            [none] { "" }
           *[other] { " " }The parts carry { $peaks } GB/s at most, weighted by their size { $mean }.
        }
    .next =
        { $unlike ->
            [modules] Nothing to fix. Equal modules would put all of it on every channel.
           *[channels] Nothing to fix. As many modules on each channel would put all of it on every channel.
        }
    .customer =
        { $unlike ->
            [modules] The modules differ in size: { $parts }. It works; as much memory on each channel would be faster throughout.
           *[channels] The memory channels hold different amounts: { $parts }. It works; as much memory on each channel would be faster throughout.
        }
    .disproof = A measured bandwidth is as high as two equal channels carry.

part = { $size } on { channels }
    .between = ,
move = from { $source } to { $target }
    .between = ,

channels-unproven = Channel mode not known
    .reason = No channel mode was shown, and the slot names do not tell channels.
    .next =
        { $loose ->
            [yes] Type the mode that the firmware setup page shows (single, dual), or the slots of the modules.
           *[no] Type the mode that the firmware setup page shows (single, dual), or measure the bandwidth.
        }
    .customer = How many memory channels the memory uses could not be read.

channels-node-empty = No memory at node { $named }
    .reason = The system counts { $nodes } memory nodes, as a rule one to a processor, and node { $named } has none of its own: everything it uses comes through another processor, and its channels do nothing.
    .next = Spread the modules over the slots of all processors, as the board's manual orders them; or note why not.
    .customer = All memory sits at one of the machine's processors; spread over all of them it would be faster.
    .disproof = The firmware page shows modules at every processor.

channels-fewer = Runs on { channels }, { earlier-channels } on arrival
    .reason = Each channel carries a part of the data: with fewer of them the memory is slower, however large it is.
    .next =
        { $agreed ->
            [yes] Nothing to do: this many channels were agreed on.
           *[no] Fit one module to each channel as before, or agree on it with the customer.
        }
    .customer = The memory works on { channels }; before the change it was { earlier-channels }, which is faster.

slots-order = Filled are { $filled }; { $machine } asks for { $asked } first
    .reason = The maker gives an order in which the slots are to be filled; another one may start late, run slower, or not at all.
    .next = Put the modules into { $asked } where anything is odd; else note that it works as it is.
    .customer = The memory sits in other slots than the machine's maker asks for; it works.
    .disproof = The machine's manual gives another order than the data sheet.

## Errors that the machine counted, and error correction

ecc-corrected =
    { $errors ->
        [one] 1 corrected memory error
       *[other] { $errors } corrected memory errors
    }{ $where_count ->
        [0] { "" }
       *[other] : { $where }
    }
    .reason =
        { $earlier ->
            [none] { "" }
           *[other] On arrival it was { $earlier }, and the modules are new since.
        } Error correction put them right, so nothing was lost; a module that goes on like this is wearing out or sits badly.
    .next = Reseat the module, clear the counters, run a long memory test, and look at them again.
    .customer =
        { $errors ->
            [one] The machine corrected 1 memory error by itself; this should be watched.
           *[other] The machine corrected { $errors } memory errors by itself; this should be watched.
        }

ecc-uncorrected =
    { $errors ->
        [one] 1 memory error that could not be corrected
       *[other] { $errors } memory errors that could not be corrected
    }{ $where_count ->
        [0] { "" }
       *[other] : { $where }
    }
    .reason = Data was wrong in memory and could not be put right; this memory cannot be trusted.
    .next = Take the module out that the counter names, or try the modules one at a time, and test again.
    .customer = The machine found memory errors that it could not correct.

ecc-off =
    { $why ->
        [inside] The modules have no ECC, error correction was promised
        [contradicted] The modules have no ECC, error correction was promised
        [promised] Error correction is off, promised on
       *[arrival] Error correction is off, on at arrival
    }
    .reason =
        { $why ->
            [contradicted] It is shown as on, and none of the modules has the devices for it: one of the two was misread.
            [inside] What is shown as on works inside the devices only (DDR5); it is not the error correction that was promised.
            [promised] Errors in the memory are neither put right nor counted.
           *[arrival] Errors in the memory are not put right and not counted any more.
        }
    .next =
        { $why ->
            [contradicted] Look at the modules' stickers and at the firmware's page; fit modules with ECC, or take it out of the promise with the customer.
            [inside] Fit modules with ECC, or take it out of the promise with the customer.
           *[other] Look for its setting in the firmware setup; fit modules with ECC throughout, as one without turns it off for all.
        }
    .customer =
        { $why ->
            [inside] The modules have no error correction of their own; it was agreed on.
            [contradicted] The modules have no error correction of their own; it was agreed on.
            [promised] The correction of memory errors is not on; it was agreed on.
           *[arrival] The correction of memory errors is not on any more.
        }

ecc-on-die = Error correction is shown as on, and the modules have no ECC
    .reason = Every DDR5 device corrects single bits inside itself. The way between module and processor is not protected by that.
    .next = Do not promise ECC by it; modules with ECC have more devices in each rank.
    .customer = The modules correct errors inside their chips only; this is not the error correction of servers.
    .disproof = The modules' labels or part numbers say ECC.

## The firmware

firmware-reset = Firmware settings were cleared at this start
    .reason = Profile, fan curve, boot order and virtualisation may be back at their defaults.
    .next =
        Set them again in the firmware setup{ $profile ->
            [none] { "" }
           *[other] , profile { $profile } first
        }, start, and read again.
    .customer = The machine's basic settings were cleared by the change and have to be set again.

firmware-changed-notice =
    The firmware said that the amount of memory changed{ $upgraded ->
        [yes] { "" }
       *[no] , and no module was changed
    }
    .reason =
        { $upgraded ->
            [yes] After an upgrade that is as it should be; it does not mean that settings were cleared.
           *[no] Without an upgrade it means that a module has come loose, or is not seen at every start.
        }
    .next =
        { $upgraded ->
            [yes] Nothing to do.
           *[no] Reseat the modules, start twice more, and see whether it says so again.
        }
    .customer =
        { $upgraded ->
            [yes] The machine noticed the new memory at its start.
           *[no] The machine noticed a change of its memory although none was made; the modules have to be seated again.
        }
    .disproof = The notice does not come again at two more starts.

firmware-updated = The firmware changed from { $before } to { $now }
    .reason = More than the memory changed since arrival; settings and training may differ with it.
    .next = Look whether the settings are as they were.
    .customer = The machine's basic software was updated as well.

## What the machine's maker documents

limit-total = { $fitted } fitted, { $limit } documented as the most
    .reason = { beyond-the-documents }
    .next = { beyond-the-documents.next }
    .customer = More memory is fitted than the machine's maker supports.{ works-unsupported }
    .disproof = The machine starts with the same modules in another arrangement, or another machine of this model does.

limit-module = { $modules ->
        [one] The module{ in-named } has { $fitted }
       *[other]
            { $named_count ->
                [0] { $modules } modules have
               *[other] { $named } have
            } { $fitted } each
    }, { $limit } documented as the largest
    .reason = { beyond-the-documents }
    .next = { beyond-the-documents.next }
    .customer = { $modules ->
        [one] A larger module is
       *[other] Larger modules are
    } fitted than the machine's maker supports.{ works-unsupported }
    .disproof = The machine starts with the same modules in another arrangement, or another machine of this model does.

limit-unlisted = { $part }{ in-named } is not on the list of supported modules
    .reason = { beyond-the-documents }
    .next = { beyond-the-documents.next }
    .customer = { $modules ->
        [one] A module is fitted that is
       *[other] Modules are fitted that are
    } not on the list of the machine's maker.{ works-unsupported }
    .disproof = The machine starts with the same modules in another arrangement, or another machine of this model does.

limit-rate = Runs at { $rate } MT/s, { $limit } documented for this load
    .reason = { beyond-the-documents }
    .next = { beyond-the-documents.next }
    .customer = The memory runs faster than the machine's maker documents.{ works-unsupported }

beyond-the-documents =
    The documents of { $machine } do not promise this{ $works ->
        [yes] . It is seen and runs, so it works; its maker does not support it.
        [failed] , and it does not start with it. Other reasons are possible: it was not tried without.
       *[no] . Whether it works all the same is not proven.
    }
    .next =
        { $works ->
            [failed] Try it with modules that its documents name, or with the old ones: if it starts then, it does not take these.
            [yes] Tell the customer that it works and is unsupported; run a long memory test before the machine goes back.
           *[no] See first that all of it is counted; then tell the customer that its maker does not support it.
        }
works-unsupported =
    { $works ->
        [yes] { " " }It works, and is unsupported by the maker.
       *[no] { "" }
    }

## Modules that do not go together

mix-generation =
    { $why ->
        [several] Generations that do not go together: { $groups }{ $takes ->
            [none] { "" }
           *[other] ; { $machine } takes { $takes }
        }
       *[other] { $machine } takes { $takes }; fitted are { $groups }
    }
    .reason = Memory generations differ in notch, voltage and signals; a board takes exactly one.
    .next = Check the reading of these modules; fit modules of the machine's generation only.
    .customer =
        { $why ->
            [several] Modules of different generations were found; the machine takes only one kind.
           *[other] The fitted memory is of another generation than the machine takes.
        }

mix-form =
    { $why ->
        [several] Forms that do not go together: { $groups }
       *[other] Not a form that { $machine } takes: { $groups }
    }
    .reason = The forms differ in length and contacts; a board has slots of one form.
    .next = Check the reading of these modules, and fit the form that the board takes.
    .customer = Modules of different shapes were found; the machine takes only one.

mix-buffered =
    { $why ->
        [both] Registered and unregistered modules do not go together: { $groups }
        [kinds] Two kinds of registered modules do not go together: { $groups }
        [takes-registered] { $machine } takes registered modules; fitted are { $groups }
       *[takes-unregistered] { $machine } takes unregistered modules; fitted are { $groups }
    }
    .reason = Registered modules put a register between controller and devices; a machine starts with one kind or the other.
    .next = Fit modules that are all registered or all unregistered, as the machine asks for.
    .customer =
        { $why ->
            [takes-registered] The fitted modules are of a kind that this machine does not take.
            [takes-unregistered] The fitted modules are of a kind that this machine does not take.
           *[other] Two kinds of modules were fitted that do not work together.
        }

mix-ecc =
    { $why ->
        [needed] This machine needs modules with error correction: { $named_count ->
            [0] some
           *[other] { $named }
        } without
        [mixed] Modules with and without error correction: { $groups }
       *[unused] Modules with error correction in a machine that makes no use of it
    }
    .reason =
        { $why ->
            [needed] { $machine } starts only with modules that carry error correction bits.
            [mixed] Together they run without error correction, where they start at all.
           *[unused] The machine ignores the additional bits; the modules work as others do.
        }
    .next =
        { $why ->
            [needed] Fit modules with ECC.
            [mixed] Use one kind; with ECC throughout where the machine makes use of it.
           *[unused] Nothing to do.
        }
    .customer =
        { $why ->
            [needed] The machine needs memory with error correction, and some of it has none.
            [mixed] Some modules can correct errors and some cannot, so errors are not corrected.
           *[unused] The modules could correct errors; this machine does not make use of it.
        }
    .disproof = The modules' labels say that all of them have error correction, or none.

mix-voltage = Modules for different voltages: { $groups }
    .reason = All run at the highest of these voltages; a machine that gives only 1.35 V does not start with 1.5 V modules.
    .next = Where the machine is a low-voltage one, use low-voltage modules only.
    .customer = The modules ask for different voltages; together they need the higher one.
    .disproof = The labels of all modules show one voltage.

mix-ranks = Different ranks: { $groups }
    .reason = It works; where the rate depends on ranks, the module with most of them sets it.
    .next = Nothing to do.
    .customer = The modules are built differently inside, which does not matter here.

mix-maker = Different makers: { $makers }
    .reason = Modules of different makers run together as a rule; training takes the slowest of each timing.
    .next = Nothing to do while everything else is right.
    .customer = The modules come from different makers, which is not a problem.

## Timings, voltage, profile

timings-mixed = Timings differ by { $difference } ns: all wait for the slowest
    .reason = { $slow } asks for { $slowest } ns to the first word, { $fast } for { $fastest } ns; all run at the longer one.
    .next =
        { $noticed ->
            [no] Nothing to do.
           *[yes] Modules with the shorter timing throughout would answer sooner.
        }
    .customer = The slower modules make all of them wait { $difference } ns longer for the first word. { felt }
    .disproof = The firmware page shows the shorter timings as running.

timings-slower = First word after { $now } ns, { $before } ns on arrival
    .reason = The modules' timings at the rate that runs are longer in ns than those before.
    .next = Nothing to do where rate and size matter more; else set the modules' profile, or fit modules with shorter timings.
    .customer = The new memory waits { $difference } ns longer for the first word. { felt }

felt =
    { $noticed ->
        [no] Nobody will notice.
       *[yes] Some programs may feel it.
    }

timings-loose =
    Timings { $runs }, { $wanted } { $against ->
        [promised] promised
       *[profile] by the profile that is on
    }
    .reason = The rate is reached with longer waits: the profile's timings were not taken over, or training fell back.
    .next = Choose the profile again in the firmware setup, or set its timings by hand; save, start, and read again.
    .customer = The memory runs at its speed, and answers a little later than it could.
    .disproof = The firmware page shows the profile's timings.

voltage-high = Runs at { $runs }, { $asked } asked for
    .reason = More voltage than the modules ask for makes them warmer and wears them; somebody set it by hand, or a profile did.
    .next = Set the voltage to automatic in the firmware setup, or to what the profile asks for.
    .customer = The memory is run at a higher voltage than it is made for.
    .disproof = The firmware page and the sensor show the voltage that the modules ask for.

profile-off =
    { profile-state }, { which-profile } { $against ->
        [promised] promised
       *[before] was on before
    }
    .reason =
        { $why ->
            [reset] The firmware cleared its settings at this start, and the profile with them.
            [standard] The firmware runs the modules at standard settings: no profile is on.
           *[another] Another profile than the promised one was chosen: profile { $state } is on.
        }
    .next =
        { $no_choice ->
            [yes] See to the module without a profile first; then choose the profile, save, start, and read again.
           *[no] Turn { which-profile } on in the firmware setup, save, start, and read again.
        }
    .customer = The setting that lets the memory run at its full speed is not on.
    .disproof = The firmware setup shows the profile as on.

profile-state =
    { $state ->
        [off] No profile is on
       *[other] Profile { $state } is on
    }
which-profile =
    { $number ->
        [none] a profile
       *[other] profile { $number }
    }

profile-locked = This firmware offers no profile
    .reason = A profile was promised, and the firmware of this machine has no such choice.
    .next = Fit modules whose standard rate is the promised one, ask the processor's maker for a tool that sets the profile, or change the promise with the customer.
    .customer = This machine does not allow the setting that was promised for the memory.

profile-hidden =
    { $modules ->
        [one] No profile for all: the module { where-named } holds none
       *[other] No profile for all: the modules { where-named } hold none
    }
    .reason = A profile can be chosen only when every fitted module holds one, so the firmware shows no choice any more.
    .next = Replace that module with one that holds the same profile, or take it out.
    .customer = One of the modules does not have the setting for full speed, so it cannot be switched on for the others.
    .disproof = The firmware setup offers a profile with these modules in.

where-named =
    { $named_count ->
        [0] without slots
       *[other] in { $named }
    }

profile-not-promised = A profile is on, standard settings were promised
    .reason = The memory runs by a profile, faster and often at a higher voltage than the standard asks for.
    .next = Turn the profile off in the firmware setup, or change the promise with the customer.
    .customer = The memory runs at a faster setting than agreed on.

## The data rate: exactly one reason

runs-at =
    Runs at { $running }, { $against ->
        [promised] promised
       *[stated] the modules state
    } { $target } MT/s
runs-instead = The memory runs at { $running } instead of { $target } million transfers a second

rate-pending-restart =
    { $why ->
        [settled] A changed setting waits for a restart
       *[rate] { runs-at }: a change waits for a restart
    }
    .reason =
        { $why ->
            [settled] What was read is from before that change; after the restart it may be different.
           *[rate] A changed setting waits for a restart; the rate shown is the one from before it.
        }
    .next = Restart the machine and read again.
    .customer =
        { $why ->
            [settled] The machine has to be started once more before its settings are final.
           *[rate] { runs-instead }, because a restart is still to come.
        }

rate-capped = { runs-at }: the firmware setup limits it
    .reason = The firmware setup limits the memory to { $cap } MT/s, whatever the modules can do.
    .next = Set the memory rate in the firmware setup to automatic, save, start, and read again.
    .customer = { runs-instead }, because a setting limits it.

rate-slowest-module = { runs-at }: the slowest module sets the pace
    .reason =
        { $why ->
            [without-profile] Without its profile { slow-modules } runs at { $slow } MT/s, and { modules-without } no profile, so the profile cannot be chosen for all.
           *[slow] { slow-modules } { $modules ->
                [one] goes
               *[other] go
            } no faster than { $slow } MT/s, and all modules run at the pace of the slowest{ $others ->
                [none] { "" }
               *[other] ; the others would reach { $others }
            }.
        }
    .next =
        { $why ->
            [without-profile] Use modules that all hold the same profile, or that all reach { $target } MT/s as a standard rate.
           *[slow] Replace { those-modules } with modules that reach { $target } MT/s, take { $modules ->
                [one] it
               *[other] them
            } out, or agree on { $slow } MT/s with the customer.
        }
    .customer = { runs-instead }, because one of the modules is slower than the others.
    .disproof = Without the slowest module the rate stays as it is.

slow-modules =
    { $named_count ->
        [0] { $modules ->
            [one] One module
           *[other] { $modules } modules
        }
        [one] The module in { $named }
       *[other] The modules in { $named }
    }
those-modules =
    { $named_count ->
        [0] { $modules ->
            [one] one module
           *[other] { $modules } modules
        }
        [one] the module in { $named }
       *[other] the modules in { $named }
    }
modules-without =
    { $without_count ->
        [0] { $without_modules ->
            [one] one module has
           *[other] { $without_modules } modules have
        }
        [one] the module in { $without } has
       *[other] the modules in { $without } have
    }

rate-load = { runs-at }: more modules in a channel lower the rate
    .reason =
        { $why ->
            [documented] With { $per_channel } modules in a channel { $machine } runs at { $platform } MT/s; with less load it reaches { $highest }.
           *[seen] With { $earlier ->
                [one] 1 module
               *[other] { $earlier } modules
            } in a channel this machine ran at { $before } MT/s on arrival; with { $per_channel } it runs at { $running }.
        }
    .next =
        { $why ->
            [documented] Fit fewer and larger modules, one in a channel, or agree on { $platform } MT/s with the customer.
           *[seen] Fit fewer and larger modules, { $earlier } in a channel, or agree on { $running } MT/s with the customer.
        }
    .customer = { runs-instead }, because so many modules slow each other down.
    .disproof = With fewer modules in a channel the rate stays as it is.

rate-platform = { runs-at }: the machine itself stops there
    .reason = { $machine } itself stops at { $platform } MT/s, whatever modules are fitted.
    .next = Nothing to do; faster modules bring nothing here.
    .customer = { runs-instead }, which is as fast as this machine goes.

rate-promise-out-of-reach = { runs-at }: the promise is out of reach
    .reason =
        { $why ->
            [platform] { $machine } itself stops at { $platform } MT/s, whatever modules are fitted.
           *[modules] The fitted modules state { $best } MT/s at most, and that is what they run at.
        }
    .next =
        { $why ->
            [platform] Agree on { $platform } MT/s with the customer.
           *[modules] Fit modules that reach { $target } MT/s, or change the promise with the customer.
        }
    .customer = { runs-instead }, which is as fast as this memory goes in this machine.

rate-locked = { runs-at }: this firmware offers no profile
    .reason = The firmware of this machine offers no choice of profile, so the modules run at a standard rate.
    .next = Fit modules whose standard rate is { $target } MT/s, ask the processor's maker for a tool that sets the profile, or change the promise with the customer.
    .customer = { runs-instead }, because this machine does not allow a faster setting.

rate-profile-off = { runs-at }: the memory profile is not applied
    .reason =
        { $why ->
            [beyond] No standard has a rate of { $target } MT/s: modules reach it by a profile only, and the profile is off.
            [sold] { $standard } MT/s is the fastest standard rate of the modules. What they are sold as they reach by a profile, and it is off.
            [sold-not-read] { $standard } MT/s is the fastest standard rate of the modules. What they are sold as they reach by a profile; whether one is on was not read.
            [not-read] { $running } MT/s is the rate without a profile; whether one is on was not read.{ profile-rates }
            [automatic] { $running } MT/s is the rate without a profile; the choice is left to the firmware.{ profile-rates }
            [standard] The memory profile is not applied: { $standard } MT/s is the fastest standard rate of the modules.{ profile-rates }
           *[a-standard] The memory profile is not applied; { $running } MT/s is a standard rate.{ profile-rates }
        }
    .next =
        { $why ->
            [sold] Turn the profile on in the firmware setup, save, start, and read again; where the firmware has no such setting, fit modules whose standard rate is { $target } MT/s.
            [sold-not-read] Look for the profile in the firmware setup and turn it on; where there is no such setting, fit modules whose standard rate is { $target } MT/s.
            [beyond] Turn the profile on in the firmware setup, save, start, and read again.
           *[other] Turn { the-profile } on in the firmware setup, save, start, and read again.
        }
    .customer = { runs-instead }, because the memory profile (the setting for full speed) is not switched on.
    .disproof = The firmware setup shows the profile as on, and the rate is still low.

profile-rates =
    { $held ->
        [yes] { " " }Profile { $number } rates them { $target }{ $volts ->
            [none] { "" }
           *[other] { " at" } { $volts } V
        }.
       *[no] { "" }
    }
the-profile =
    { $each ->
        [none] profile { $number }
       *[other] the profile of { $target } MT/s ({ $each })
    }

rate-profile-lower = { runs-at }: the slower profile is on
    .reason =
        { $each ->
            [none] Profile { $state } is on, which rates the modules { $slow } MT/s; { the-profile } rates them { $target }.
           *[other] Profile { $state } is on, and by it one of the modules runs at { $slow } MT/s only.
        }
    .next = Choose { the-profile } in the firmware setup, save, start, and read again.
    .customer = { runs-instead }, because a slower setting was chosen.

rate-unexplained = { runs-at }: no single reason explains it
    .reason = { $running } MT/s is none of the rates that the modules state for these settings. Most likely first: { $candidates }.
    .next = Look at the profile and rate settings in the firmware setup, type what is there, and read again.
    .customer = { runs-instead }, and the reason is not known yet.
    .disproof = Any of these reasons, put right, leaves the rate as it is.

may-be-no-standard = the profile is off, and no standard rate is as fast as this
may-be-profile-off = the profile is off (its setting was not read)
may-be-training = the profile is on but training fell back to a lower rate
may-be-load = the number of modules in a channel lowers the rate
may-be-sheet = the data sheet of the model is wrong: it tells { $platform } MT/s for { $per_channel ->
    [1] one module
   *[other] { $per_channel } modules
} in a channel (with one in each, the rate would tell)
may-be-platform = the processor or the board stops at this rate
may-be-by-hand = a rate was set by hand in the firmware setup
may-be-slow-module = a slow module, as none of the modules could be read

also-platform = { $machine } stops at { $platform } MT/s with this load, too.
    .next =
        { $fewer ->
            [yes] Both have to be lifted: fit fewer modules to a channel as well.
           *[no] The machine itself goes no faster.
        }
also-standard = Without a profile the modules run no faster than { $standard } MT/s, either.
    .next = Both have to be lifted: turn the profile on as well.
also-capped = The firmware setup limits the rate to { $cap } MT/s, too.
    .next = Set that to automatic as well.

rate-slower = Runs at { $now }, { $before } MT/s on arrival
    .reason = The fitted modules run at a lower rate than those that were there before.
    .next =
        { $agreed ->
            [yes] Nothing to do: this rate was agreed on.
           *[no] Agree on it with the customer, or fit modules that run as fast as the old ones did.
        }
    .customer = The memory runs at { $now } million transfers a second; before the change it was { $before }.

## The readings themselves

source-virtual = This is a virtual machine
    .reason = Its memory tables are made up by the hypervisor, or empty; they say nothing about the modules.
    .next = Take the reading on the machine itself, not inside a virtual one.
    .customer = The reading comes from a virtual machine and says nothing about the real memory.

source-stickers = Known from stickers only: the machine itself said nothing yet
    .reason = A sticker says what a module is. What the machine sees of it, and how fast it runs it, only the started machine says.
    .next = Start the machine and take the reading there, or type what its firmware page shows: total, rate, channels.
    .customer = The fitted memory was noted from its stickers; the machine was not read yet.

source-rights = Not everything may be read with the present rights
    .reason = { notice }
    .next = { notice.next }
    .customer = Some of the machine's own data could not be read.

source-damaged = A part of the reading is damaged
    .reason = { notice }
    .next = { notice.next }
    .customer = Some of the machine's own data could not be read.

notice =
    { $what } ({ $where }).{ $further ->
        [0] { "" }
       *[other] { " " }And { $further } more.
    }
    .next =
        { $help ->
            [none] Read again.
           *[other] { $help }.
        }

source-disagree = { $contradiction }
    .reason = Both cannot be true, so neither is counted on.
    .next = Look again at both places, and type or take the reading again.
    .customer = Two of the machine's own statements contradict each other.

source-unit = { $doubt }
    .reason = Pages show the clock or the rate, channels or subchannels, GB or GiB, often without saying which.
    .next = Check it against a second place if it matters.
    .customer = One figure was shown in another unit than usual and was converted.
    .disproof = A second place shows the other figure.

source-other-machine = Two machines? { two-machines }
    .reason = The reading on arrival and the one now cannot be of the same machine, so nothing of one counts for the other.
    .next = See which reading is the wrong one, and take it again on this machine.
    .customer = Two readings of the machine do not fit together; one has to be taken again.
    .disproof = The machine's board was changed, or one of the readings was typed wrong.

two-machines =
    { $mark ->
        [generation] { $before } on arrival, { $now } now, and a board takes one of them
        [serial] serial number { $before } on arrival, { $now } now
        [uuid] number { $before } on arrival, { $now } now
       *[model] model { $before } on arrival, { $now } now
    }

## Starts, memory tests, benchmarks, memory in use

start-none = The machine does not start
    .reason = With this arrangement of modules nothing was seen of a start.
    .next = Reseat the modules; then one module alone in a slot known to be good; then the old modules, to prove the machine itself.
    .customer = The machine does not start with the new memory yet.

start-slow = The start took long
    .reason = The first start after a change is slower, as the memory is measured out; later ones should be as before.
    .next = Start once more and compare; if it stays slow, look for the memory settings in the firmware setup.
    .customer = The first start after the change takes longer than usual.

start-cycles = The machine switched itself off and on while starting
    .reason = Two or three power cycles are how some machines find the settings of new memory.
    .next = Wait for them to end; more than a handful points to a setting or a module that it cannot use.
    .customer = The machine restarted by itself a few times while it got used to the new memory.

soak-errors =
    { $errors ->
        [one] The memory test found 1 error
       *[other] The memory test found { $errors } errors
    }{ $named_count ->
        [0] { "" }
       *[other] , which point at { $suspects }
    }
    .reason =
        Memory that fails a test once cannot be trusted with anybody's work, however rarely it fails.{ $hot ->
            [yes] { " " }The processor or the modules ran hot meanwhile, which makes sound memory fail too.
           *[no] { "" }
        }
    .next =
        { $named_count ->
            [0] Set standard rate and voltage and test again; if it still fails, test one module at a time to find which.
           *[other] Test the module of { $first } alone, in a slot that is known to be good; then another one in { $first }.
        }
    .customer = A test found errors in the memory; it is not safe to use like this.

errors-look-like =
    The errors look like: { $kind ->
        [stuck] a bit that keeps its value, which is a fault of the module
        [lane] one data line or one device of a module; dirt in the slot can look the same
        [addressing] an address that reaches another place, in the module or in the slot's contacts
        [retention] cells that lose their value in time
        [disturbed] cells that change when their neighbours are used
        [read] wrong reads of right values, as from a rate or a voltage at its limit
       *[scattered] single bits here and there, as from heat, voltage or a rate at its limit
    } ({ symptom }).
errors-lie-in = They lie in { devices }.

symptom =
    { $told ->
        [none] { $kind ->
            [stuck] the same bits fail again at { places } (bit { $bits })
            [lane] bit { $bits } fails at { places }
            [addressing] whole words are wrong at { places }, as when an address reaches another place
            [retention] { places } lost their value while nothing was done
            [disturbed] { places } changed while other rows were read again and again
            [read] read again from memory, { places } held the right value
           *[scattered] single bits at { places }, none of them again
        }
       *[other] { $told }
    }
places =
    { $addresses ->
        [one] one address
       *[other] { $addresses } addresses
    }
devices =
    { $devices_count ->
        [0] { $told }
        [one] device { $devices } of its rank (×{ $width })
       *[other] devices { $devices } of their rank (×{ $width })
    }

soak-partial =
    { $why ->
        [stopped] The memory test was stopped before a whole pass
       *[covered] The memory test covered { covered }
    }
    .reason =
        { $why ->
            [stopped] Each step of a test finds other faults. Those that were not run found nothing, and say nothing.
           *[covered] No errors were found in what was tested; the rest was not.
        }
    .next =
        { $why ->
            [stopped] Test again and let one pass end, the short one where there is little time.
           *[covered] Test again with less running beside it, or from outside the system.
        }
    .customer =
        { $why ->
            [stopped] The memory test found no errors, and was stopped before it had done everything once.
           *[covered] The memory test found no errors and covered { covered }.
        }

covered =
    { $percent ->
        [none] an unknown part of the memory
       *[other] { $percent } % of the memory
    }

soak-not-enough = The memory test is not enough for this shop: { wanting }
    .reason = The shop's settings ask for it before a machine goes back.
    .next = Run the memory test as long as the settings ask, or go on with the one that was stopped.
    .customer = The memory test that this shop runs on every machine is not done yet.

wanting =
    { $what ->
        [none-yet] none is on record
        [minutes] { $done ->
            [none] an unknown number of
           *[other] { $done }
        } of { $wanted } minutes
        [passes] { $done ->
            [none] an unknown number
           *[other] { $done }
        } of { $wanted ->
            [one] 1 pass
           *[other] { $wanted } passes
        }
       *[percent] { $done ->
            [none] an unknown share
           *[other] { $done }
        } of { $wanted } % covered
    }

soak-none = No memory test is on record
    .reason = Whether the memory can be trusted only a test shows; nothing else that was read says it.
    .next = Test the memory, or add the result of a test that was run elsewhere, for instance + soak clean 60min 95%.
    .customer = The memory was not tested for hidden faults.

gauge-same = No difference that can be measured
    .reason = The runs before and after lie within each other's spread.
    .next = { measure-again }
    .customer = The measured speed is the same as before; the gain is in capacity.
    .disproof = More runs under equal conditions lie apart from each other.

gauge-worse = Slower than before
    .reason = The runs after the change are slower by more than their spread.
    .next = { measure-again }
    .customer = The measured memory speed is lower than before.
    .disproof = Runs with nothing else at work are as fast as before.

gauge-not-comparable = The benchmarks cannot be compared
    .reason = Conditions differed: thread count, load, temperature or the version of the plan.
    .next = { measure-again }
    .customer = The speed before and after was not measured under equal conditions.
    .disproof = Both runs were made with equal threads, load and heat.

measure-again = Look at channels, rate and timings first; then measure again under equal conditions.

gauge-short =
    { $quantity ->
        [read] Reading memory
        [write] Writing memory
        [copy] Copying memory
       *[latency] Waiting for memory
    }: { $now } { $unit }, promised { $promised } { $unit }
    .reason = The promise names a measured figure, and the median of the runs does not reach it.
    .next = Look at channels, rate and timings first; measure again with nothing else running; else agree on another promise.
    .customer =
        The memory { $quantity ->
            [read] reads
            [write] writes
            [copy] copies
           *[latency] answers
        } at { $now } { $unit }; { $promised } { $unit } was promised.
    .disproof = Runs with nothing else at work reach the promised figure.

demand-short = The work takes { $peak }, nearly all of { $now }
    .reason = Little is left for caches, and a little more work would begin to swap.
    .next = Tell the customer that more memory would help further, as far as the machine takes it.
    .customer = Your work takes { $peak } of memory at its peak, nearly all there is; more would help further.

demand-proven = The work takes { $peak }: it would not have fit in { $before }
    .reason = It was seen to hold { $peak }, more than the machine had on arrival.
    .next = Nothing to do; this is what the upgrade did for the customer.
    .customer = Your work takes { $peak } of memory at its peak; it did not fit before, and it does now.

## What the tries say

cause-outside =
    { $why ->
        [hot] The errors came while it was hot: cool it before the memory is blamed
        [off] Switches off under load: look at cooling and power, not at memory
        [off-clean] Switches off under load: look at cooling and power, not at memory
        [off-errors] Switches off under load: look at cooling and power
       *[tries] The tries show: it is not the memory
    }
    .reason =
        { $why ->
            [hot] The processor slowed itself down for heat, or a sensor went above what memory is made for, while the test ran.
            [off] { off-under-load }
            [off-clean] { off-under-load } The memory test was clean.
            [off-errors] { off-under-load } The memory test found errors too: heat or a weak supply can cause them, and faulty modules can.
           *[tries] { tried-so-far }
        }
    .next =
        { $why ->
            [hot] See whether every fan turns and the cooler sits, let the machine cool, and test again.
            [tries] { act }
           *[off] See whether every fan and pump turns, seat and clean the cooler, and check the power supply; then test again.
        }
    .customer =
        { $why ->
            [hot] The machine got hot during the test; its cooling has to be looked at before the memory is blamed.
            [off-errors] The machine switches off under load. Cooling and power have to be looked at, and the memory as well.
            [tries] { act.customer }
           *[off] The machine switches off under load. That points to cooling or power, not to the new memory.
        }
    .disproof = The machine still fails when it is cool and its load is low, or a test finds errors then.

off-under-load = Faulty memory makes programs fail; a machine that switches off protects itself from heat or loses its power.

cause-found = The tries show: { $suspects }
    .reason = { tried-so-far }
    .next = { act }
    .customer = { act.customer }
    .disproof = The suspect works in another machine, or the fault comes without it.

tried-so-far =
    { $tries_say } { $tries ->
        [one] 1 arrangement was tried.
       *[other] { $tries } arrangements were tried.
    }{ $put_right ->
        [yes] { " " }What is fitted now works.
       *[no] { "" }
    }

cause-open = It failed in the tries, and why is not clear yet
    .reason =
        { $tries_say }{ $state ->
            [over] { " " }What is fitted now works.
            [untested] { " " }What is fitted now starts; the memory test that failed before was not run with it.
           *[failing] { "" }
        }
    .next =
        { $state ->
            [over] Start twice more before the machine goes back.
           *[other] { $next_try ->
                [none] Go on with the tries, or write down what you conclude and test what is fitted now.
               *[other] { $next_try }
            }
        }
    .customer =
        { $state ->
            [over] The machine failed once while it was being tested; as it is fitted now it works.
           *[other] The machine failed while it was being tested, and the reason is still looked for.
        }
    .disproof = The arrangement that failed works, tested as it was when it failed, and does so twice more.

# What the tries add to a finding about a start, a module or a test.
tries-add = { $tries_say }
tries-add-next = { $tries_say }
    .instead = { $next_try }
tries-add-act = { $tries_say }
    .instead = { act }

# What to do, and what the customer reads, for each kind of suspect.
act =
    { $kind ->
        [parts] { $act }. Keep serial numbers and errors for the warranty. Then test again.
        [module] Take module { $name } out and have it replaced; keep its serial number and the errors for the warranty. Then test again.
        [slot] Look into slot { $name } for dirt and bent contacts. If it stays as it is: leave it empty, or have the board repaired.
        [mix] Do not fit { $name } together: take modules of one kit, or set the lower of their rates by hand.
        [total] Fit less than { $name }: this machine takes no more, whatever its parts can do.
        [kind] Fit other modules: this machine refuses those { $name }.
        [profile] Leave the profile off, or use a lower one: { $name } is more than this machine holds.
        [contact] Seat { $name } again, clean its contacts, and start twice more to see that it stays.
        [machine] The memory is not to blame: the machine fails with modules that are known to be good. Look at board, processor and power.
        [outside] Look at fans, cooler, power supply and processor; the memory is not to blame for this.
        [marginal] Have module { $name } replaced: it does not hold the profile that it is sold with. Until then leave the profile off, or use a lower one.
        [order] Fill slot { $name } first: this machine does not work with it empty.
        [channel] Look into all slots of channel { $name } and, where the processor is in a socket, under it for dirt and bent contacts. If it stays as it is: use the other channels only, or have the board repaired.
       *[nothing] Nothing has to be replaced. Start twice more and test once more before the machine goes back.
    }
    .customer =
        { $kind ->
            [parts] The machine does not work with one part of the memory that was tried (marked { $name }).
            [module] One memory module (marked { $name }) was found to be faulty by trying it in different places.
            [slot] One memory slot of the machine ({ $name }) was found not to work.
            [mix] Two of the memory modules do not work together.
            [total] The machine does not take that much memory.
            [kind] The machine does not accept one kind of module that was tried ({ $name }).
            [profile] The machine does not run steadily with the memory at its memory profile.
            [contact] A memory module was not making good contact; it was seated again.
            [machine] The machine fails with memory that is known to be good; the fault is not in the memory.
            [outside] The machine switches off or fails for a reason that is not its memory.
            [marginal] One memory module (marked { $name }) fails at the speed of its memory profile; at the standard speed it works.
            [order] The machine works only where a certain slot ({ $name }) is filled first.
            [channel] One memory channel of the machine ({ $name }) was found not to work.
           *[nothing] A fault came once while the memory was fitted, and did not come again.
        }{ $put_right ->
            [yes] { " " }It works as it is fitted now.
           *[no] { "" }
        }

## Why a verdict is what it is

why-to-fix =
    { $fix } to fix{ $follow ->
        [0] { "" }
        [one] , 1 follows from { it-or-them }
       *[other] , { $follow } follow from { it-or-them }
    }
it-or-them =
    { $fix ->
        [one] it
       *[other] them
    }
why-damaged = a part of this job is damaged: { $parts }
why-said-nothing = the machine itself said nothing yet
why-two-machines = the readings are not of one machine
why-no-promise = nothing was promised that could be held against the reading
why-not-known = not known: { $names }{ $how ->
        [none] { "" }
        [sticker] { " " }(the module's sticker)
        [benchmark] { " " }(a benchmark shows it)
       *[page] { " " }(the firmware's page)
    }
why-test-wanting = the memory test that this shop asks for: { wanting }
why-kept = every promised quantity is kept
why-not-read = the machine was not read after fitting
why-virtual = a virtual machine says nothing about its modules

## What is compared, and groups of modules

differs =
    { $what ->
        [generation] generation { $found }, promised { $wanted }
        [form] form { $found }, promised { $wanted }
        [error-correction] error correction { $found ->
            [yes] with ECC
           *[no] without ECC
        }, promised { $wanted ->
            [yes] with ECC
           *[no] without ECC
        }
        [ranks] ranks { $found }, promised { $wanted }
        [device-width] device width x{ $found }, promised x{ $wanted }
        [voltage] voltage { $found }, promised { $wanted }
        [maker] maker { $found }, promised { $wanted }
        [part] part { $found }, promised { $wanted }
        [serial] serial { $found }, promised { $wanted }
        [size] size { $found }, promised { $wanted }
       *[timings] timings { $found }, promised { $wanted }
    }
group =
    { $slots ->
        [none] { $modules } x { $group }
       *[other] { $group } in { $slots }
    }
with-ecc = with ECC
without-ecc = without ECC
volts = { $volts }
ranks =
    { $ranks ->
        [one] 1 rank
       *[other] { $ranks } ranks
    }
nanoseconds = { $time } ns
profile-in =
    { $slot ->
        [none] number { $number } in one module
       *[other] number { $number } in { $slot }
    }
    .between = ,

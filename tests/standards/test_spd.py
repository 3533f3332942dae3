"""SPD decoding against images laid out by hand, and against any bytes."""

from __future__ import annotations

from random import Random

import pytest
from hypothesis import given
from hypothesis import strategies as st

from after_check.domain.modules import Form, Generation, MakerId, ManufactureWeek, Profile, Timings
from after_check.domain.readings import Reading
from after_check.judgement.case import view
from after_check.sources.open_source import take
from after_check.sources.spd_image import module_from_spd
from after_check.standards.spd import decode
from after_check.standards.spd.image import crc16
from after_check.standards.spd.organisation import clocks, standard_rate
from tests.standards import spd_images as images

GIB = 1 << 30


def decoded(image):
    module = decode(bytes(image))
    assert module is not None
    return module


def test_the_crc_is_the_published_one():
    # The check value of this CRC (polynomial 1021h, start 0, not reflected) over the digits 1 to 9.
    assert crc16(b"123456789") == 0x31C3


def test_ddr4():
    module = decoded(images.ddr4())
    assert module.problems == ()
    assert module.base_sound
    assert (module.generation, module.form, module.ecc) == (Generation.DDR4, Form.SODIMM, False)
    # 8 Gbit / 8 x 64 / 8 x 2 ranks = 16 GiB.
    assert (module.size_bytes, module.ranks, module.device_width_bits, module.data_width_bits) == (16 * GIB, 2, 8, 64)
    assert (module.tck_ps, module.standard_mts) == (625, 3200)
    assert (module.taa_ps, module.trcd_ps, module.trp_ps, module.tras_ps, module.trc_ps) == (13750, 13750, 13750, 32000, 45750)
    assert module.cas_latencies == (10, 11, 12, 13, 14, 15, 16, 17, 18, 19, 20, 21, 22, 24)
    assert module.voltage_mv == 1200
    assert (module.maker, module.device_maker) == (MakerId(10, 0x21), MakerId(11, 0x21))
    assert (module.part, module.serial, module.made) == ("QM4S-3200-16", "0A1B2C3D", ManufactureWeek(2021, 11))
    assert module.profiles == ()


@pytest.mark.parametrize(
    ("changes", "size_gib", "ranks", "form", "ecc"),
    [
        ({"b12": 0x01}, 8, 1, Form.SODIMM, False),  # one rank of x8
        ({"b12": 0x02}, 4, 1, Form.SODIMM, False),  # one rank of x16
        ({"b3": 0x01, "b12": 0x08, "b13": 0x0B}, 32, 2, Form.RDIMM, True),  # two ranks of x4, 72 bits
        ({"b3": 0x02, "b13": 0x0B}, 16, 2, Form.UDIMM, True),
        ({"b3": 0x04, "b4": 0x86, "b6": 0x91, "b12": 0x18, "b13": 0x0B}, 128, 4, Form.LRDIMM, True),  # dual-die packages
        ({"b3": 0x01, "b4": 0x85, "b6": 0xB2, "b12": 0x08, "b13": 0x0B}, 128, 2, Form.RDIMM, True),  # stacks of four
        ({"b10": 0x04, "b12": 0x49}, 12, 2, Form.SODIMM, False),  # the second rank has 4 Gbit devices
        ({"b4": 0x89}, 48, 2, Form.SODIMM, False),  # 24 Gbit
    ],
)
def test_organisations_of_ddr4(changes, size_gib, ranks, form, ecc):
    module = decoded(images.ddr4(**changes))
    assert (module.size_bytes, module.ranks, module.form, module.ecc) == (size_gib * GIB, ranks, form, ecc)


def test_ddr4_profiles_with_medium_and_fine_times():
    module = decoded(images.ddr4_profiles(images.ddr4()))
    assert module.profiles == (
        # 42 clocks of 555.6 ps are 23.33 ns, stored as 187 units of 125 ps.
        Profile(1, 3600, Timings(18, 22, 22, 42), 1350),
        Profile(2, 3000, Timings(16, 16, 16), 1300),
    )


def test_a_profile_that_is_not_enabled_is_none():
    image = images.ddr4_profiles(images.ddr4())
    image[386] = 0x02
    assert [profile.number for profile in decoded(image).profiles] == [2]
    image[386] = 0
    assert decoded(image).profiles == ()


def test_ddr3():
    module = decoded(images.ddr3())
    assert module.problems == ()
    assert (module.generation, module.form, module.size_bytes, module.ranks) == (Generation.DDR3, Form.SODIMM, 4 * GIB, 2)
    assert (module.tck_ps, module.standard_mts, module.voltage_mv) == (1250, 1600, 1350)
    assert (module.taa_ps, module.trcd_ps, module.trp_ps, module.tras_ps, module.trc_ps) == (13125, 13125, 13125, 35000, 48125)
    assert module.cas_latencies == (5, 6, 7, 8, 9, 10, 11)
    assert (module.part, module.serial, module.made) == ("QM3S-1600-4", "0A1B2C3D", ManufactureWeek(2021, 11))


def test_ddr3_profile_in_its_own_time_base():
    (profile,) = decoded(images.ddr3_profiles(images.ddr3())).profiles
    assert profile == Profile(1, 1866, Timings(9, 10, 10, 28), 1650)


def test_the_crc_of_ddr3_covers_what_byte_0_says():
    whole = images.ddr3(b0=0x12)
    assert decoded(whole).base_sound
    whole[118] ^= 0xFF
    assert not decoded(whole).base_sound
    short = images.ddr3()
    short[118] ^= 0xFF  # the maker lies outside of the covered part
    assert decoded(short).base_sound


def test_ddr5():
    module = decoded(images.ddr5())
    assert module.problems == ()
    assert (module.generation, module.form, module.size_bytes) == (Generation.DDR5, Form.UDIMM, 16 * GIB)
    assert (module.ranks, module.device_width_bits, module.subchannels, module.data_width_bits) == (1, 8, 2, 64)
    assert (module.tck_ps, module.standard_mts, module.voltage_mv) == (416, 4800, 1100)
    assert module.cas_latencies == (22, 28, 30, 32, 34, 36, 38, 40)
    assert (module.maker, module.part, module.serial) == (MakerId(10, 0x21), "QM5-4800-16", "0A1B2C3D")


@pytest.mark.parametrize(
    ("changes", "size_gib", "ecc"),
    [
        ({"b4": 0x05}, 24, False),  # 24 Gbit
        ({"b234": 0x08}, 32, False),  # two ranks
        ({"b6": 0x40}, 8, False),  # x16
        ({"b3": 0x01, "b6": 0x00, "b234": 0x08, "b235": 0x32}, 64, True),  # RDIMM, two ranks of x4, 8 bits more
        ({"b234": 0x48, "b8": 0x02, "b10": 0x20}, 24, False),  # odd rank of 8 Gbit devices: (8 + 4) x 2
        ({"b4": 0x64, "b3": 0x01, "b6": 0x00, "b235": 0x32}, 128, True),  # stacks of four 16 Gbit dies, x4
    ],
)
def test_organisations_of_ddr5(changes, size_gib, ecc):
    module = decoded(images.ddr5(**changes))
    assert (module.size_bytes, module.ecc) == (size_gib * GIB, ecc)


def test_ddr5_profiles_of_both_blocks():
    first = decoded(images.ddr5_profiles(images.ddr5()))
    assert first.problems == ()
    assert first.profiles == (Profile(1, 6400, Timings(32, 39, 39, 102), 1400), Profile(2, 6000, Timings(30, 38, 38, 77), 1350))
    second = decoded(images.ddr5_other_profiles(images.ddr5()))
    assert second.profiles == (Profile(1, 6000, Timings(30, 38, 38, 96), 1350),)
    damaged = images.ddr5_profiles(images.ddr5())
    damaged[720] ^= 1
    assert decoded(damaged).problems == ("the CRC of profile 1 is wrong",)


def test_ddr2():
    module = decoded(images.ddr2())
    assert module.problems == ()
    assert (module.generation, module.form, module.size_bytes, module.ranks) == (Generation.DDR2, Form.UDIMM, 2 * GIB, 2)
    assert (module.tck_ps, module.standard_mts, module.trcd_ps, module.trp_ps, module.tras_ps) == (2500, 800, 15000, 15000, 45000)
    assert module.cas_latencies == (4, 5, 6)
    assert (module.maker, module.made, module.serial) == (MakerId(3, 0x21), ManufactureWeek(2008, 33), "01020304")


@pytest.mark.parametrize(
    ("key", "generation"), [(0x0F, "LPDDR3"), (0x10, "LPDDR4"), (0x11, "LPDDR4X"), (0x13, "LPDDR5"), (0x15, "LPDDR5X")]
)
def test_soldered_memory_is_recognised(key, generation):
    image = images.ddr4(b2=key) if key < 0x13 else images.ddr5(b2=key)
    module = decoded(image)
    assert (module.generation, module.form) == (generation, Form.SOLDERED)
    assert module.serial == "0A1B2C3D"


@pytest.mark.parametrize(
    ("tck_ps", "generation", "rate"),
    [
        (937, Generation.DDR4, 2133),
        (938, Generation.DDR4, 2133),
        (833, Generation.DDR4, 2400),
        (750, Generation.DDR4, 2666),
        (682, Generation.DDR4, 2933),
        (625, Generation.DDR4, 3200),
        (416, Generation.DDR5, 4800),
        (384, Generation.DDR5, 5200),
        (357, Generation.DDR5, 5600),
        (333, Generation.DDR5, 6000),
        (312, Generation.DDR5, 6400),
        (277, Generation.DDR5, 7200),
        (1875, Generation.DDR3, 1066),
        (1500, Generation.DDR3, 1333),
        (1071, Generation.DDR3, 1866),
        (3750, Generation.DDR2, 533),
        (3000, Generation.DDR2, 667),
        (0, Generation.DDR4, None),
    ],
)
def test_fastest_standard_rate(tck_ps, generation, rate):
    assert standard_rate(tck_ps, generation) == rate


@pytest.mark.parametrize(
    ("time_ps", "tck_ps", "generation", "count"),
    [
        (13750, 625, Generation.DDR4, 22),
        (13750, 682, Generation.DDR4, 21),
        (13750, 833, Generation.DDR4, 17),
        (13125, 1250, Generation.DDR3, 11),
        (13500, 1500, Generation.DDR3, 9),
        (16640, 416, Generation.DDR5, 40),
        (16000, 416, Generation.DDR5, 39),
    ],
)
def test_clocks_by_the_rounding_rule_of_the_generation(time_ps, tck_ps, generation, count):
    assert clocks(time_ps, tck_ps, generation) == count


def test_damage_is_named_and_the_rest_is_told():
    wrong = images.ddr4()
    wrong[24] ^= 0x10
    module = decoded(wrong)
    assert not module.base_sound
    assert module.problems == ("the CRC over bytes 0 to 125 is wrong",)
    assert module.serial == "0A1B2C3D"
    parity = images.ddr4()
    parity[321] ^= 0x80
    assert decoded(parity).maker is None
    assert "parity" in decoded(parity).problems[0]
    date = images.ddr4()
    date[324] = 0x7A
    assert decoded(date).made is None
    assert "no date" in decoded(date).problems[0]
    cut = decoded(images.ddr4()[:200])
    assert cut.problems[0] == "the image has 200 of 512 bytes"
    assert cut.size_bytes == 16 * GIB
    assert cut.part is None


@pytest.mark.parametrize("data", [b"", b"\0", b"\0" * 512, b"\xff" * 512, b"\x00\x00\x55" + b"\0" * 300])
def test_what_names_no_generation(data):
    assert decode(data) is None


_IMAGES = [
    bytes(image)
    for image in (
        images.ddr4(),
        images.ddr4_profiles(images.ddr4()),
        images.ddr3_profiles(images.ddr3()),
        images.ddr5_other_profiles(images.ddr5_profiles(images.ddr5())),
        images.ddr2(),
    )
]


def check_decoded(raw):
    module = decode(raw)
    if module is not None:
        assert module.size_bytes is None or 0 < module.size_bytes < 1 << 50
        assert module.standard_mts is None or 100 <= module.standard_mts <= 20_000
        for profile in module.profiles:
            assert 100 <= profile.rate_mts <= 20_000


@given(st.sampled_from(_IMAGES), st.lists(st.tuples(st.integers(0, 1023), st.integers(0, 255)), max_size=20), st.integers(0, 1024))
def test_mutated_images_never_crash_and_damage_shows(image, changes, length):
    raw = bytearray(image)
    for at, value in changes:
        raw[at % len(raw)] = value
    check_decoded(bytes(raw[:length]))


@pytest.mark.parametrize("seed", range(10))
def test_ten_thousand_mutated_and_random_images(seed):
    """A thousand images for each seed: sound ones with bytes changed or cut off, and bytes with nothing but a generation in them."""
    chance = Random(seed)
    for _ in range(1000):
        if chance.random() < 0.7:
            raw = bytearray(chance.choice(_IMAGES))
            for _ in range(chance.randrange(20)):
                raw[chance.randrange(len(raw))] = chance.randrange(256)
            raw = raw[: chance.choice((len(raw), chance.randrange(len(raw) + 1)))]
        else:
            raw = bytearray(chance.randbytes(chance.choice((128, 256, 512, 1024, chance.randrange(1100)))))
            if len(raw) > 2:
                raw[2] = chance.choice((0x08, 0x0B, 0x0C, 0x0E, 0x0F, 0x10, 0x12, 0x13, 0x15))
        try:
            check_decoded(bytes(raw))
        except Exception as error:
            raise AssertionError(f"seed {seed}: {raw.hex()}") from error


def test_text_ends_at_its_first_zero_byte():
    image = images.ddr4()
    image[329:349] = b"QM4-3200-16\0OLD-NAME"
    module = decode(bytes(image))
    assert module is not None
    assert module.part == "QM4-3200-16"


@pytest.mark.parametrize(
    ("time_ps", "tck_ps", "expected"),
    [
        (33_000, 938, 36),  # DDR3-2133: tRAS of 33 ns, in clocks of 0.938 ns, is 35.2
        (35_000, 1250, 28),  # DDR3-1600
        (13_910, 1071, 13),  # DDR3-1866: tAA of 13.91 ns
        (13_125, 1500, 9),  # DDR3-1333
        (13_090, 938, 14),
    ],
)
def test_clocks_of_ddr3_where_times_are_given_to_a_ps(time_ps, tck_ps, expected):
    assert clocks(time_ps, tck_ps, Generation.DDR3, rounded=False) == expected


@pytest.mark.parametrize(
    ("density", "per_die", "width", "ranks", "bus", "channels", "gib"),
    [
        # LPDDR4: a die of 8 Gb with two channels of 16 bits; two channels, one rank: 1 GiB. And so on, by the formula.
        (5, 1, 2, 0, 1, 1, 1),
        (6, 1, 2, 1, 1, 1, 4),
        (6, 1, 2, 0, 1, 2, 4),
        (4, 0, 3, 0, 2, 0, 0.5),
    ],
)
def test_sizes_of_soldered_memory(density, per_die, width, ranks, bus, channels, gib):
    image = bytearray(512)
    image[2], image[4], image[6], image[12], image[13] = 0x10, density, per_die << 2, ranks << 3 | width, channels << 5 | bus
    module = decode(bytes(image))
    assert module is not None
    assert module.size_bytes == gib * (1 << 30)


def test_a_compression_attached_module_is_no_soldered_memory():
    image = bytearray(1024)
    image[2], image[3] = 0x15, 0x08
    module = decode(bytes(image))
    assert module is not None
    assert (module.generation, module.form) == (Generation.LPDDR5X, Form.CAMM)


def test_a_compression_attached_module_with_four_subchannels():
    """JESD400-5, byte 235: bits 6 to 5 are 2 for four sub-channels; of 32 bits each they are 128 bits, and hold 4 x 8 GiB."""
    image = images.ddr5()
    images.put(image, 3, 0x08)
    images.put(image, 235, 0x42)
    images.seal(image, 0, 510, 510)
    module = decode(bytes(image))
    assert (module.form, module.subchannels, module.data_width_bits, module.size_bytes) == (Form.CAMM, 4, 128, 32 << 30)
    reading = Reading(loose=(module_from_spd(module, "image"),))
    assert view(reading).channels.count in (None, 2)


@pytest.mark.parametrize(("make", "kind"), [(images.ddr5, "DDR5"), (images.ddr4, "DDR4"), (images.ddr3, "DDR3")])
@pytest.mark.parametrize("length", [128, 256])
def test_a_cut_image_is_a_cut_image_of_its_kind(make, kind, length, tmp_path):
    whole = make()
    if length >= len(whole):
        length = 128
    path = tmp_path / "cut.bin"
    path.write_bytes(bytes(whole[:length]))
    reading = take(str(path)).reading
    assert reading.spd[0].module.generation.value == kind
    assert any(f"{length} of {len(whole)} bytes" in notice.what for notice in reading.notices)

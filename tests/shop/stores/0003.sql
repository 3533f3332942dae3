BEGIN TRANSACTION;
CREATE TABLE alembic_version (
	version_num VARCHAR(32) NOT NULL, 
	CONSTRAINT alembic_version_pkc PRIMARY KEY (version_num)
);
INSERT INTO "alembic_version" VALUES('0003');
CREATE TABLE cards (
	name VARCHAR(200) NOT NULL, 
	toml TEXT NOT NULL, 
	CONSTRAINT pk_cards PRIMARY KEY (name)
);
INSERT INTO "cards" VALUES('cairnbox 2','[card]
name = "Cairnbox 2"
kind = "appliance"

[memory]
generation = "DDR4"
forms = ["SODIMM"]
ecc = "required"
profile = "none"
total = "16G"
module = "8G"
supported = ["OS4E-2400-4", "OS4E-2400-8"]

[[memory.slot]]
name = "A1"
channel = "A"

[[memory.slot]]
name = "B1"
channel = "B"

[[memory.rate]]
per_channel = 1
rate = 2400

[start]
usual = "240 s"
longest = "1200 s"
signs = ["one long beep when ready", "drive lights steady"]
');
INSERT INTO "cards" VALUES('dunlin 14','[card]
name = "Dunlin 14"
kind = "laptop"

[memory]
generation = "DDR4"
forms = ["SODIMM", "soldered"]
ecc = "unsupported"
profile = "none"
total = "40G"
module = "32G"

[[memory.slot]]
name = "ChannelA-DIMM0"
channel = "A"

[[memory.slot]]
name = "ChannelB-DIMM0"
channel = "B"

[[memory.rate]]
per_channel = 1
rate = 3200

[start]
usual = "20 s"
longest = "180 s"
signs = ["keyboard light comes on"]
');
INSERT INTO "cards" VALUES('holm r6','[card]
name = "Holm R6"
kind = "server"

[memory]
generation = "DDR4"
forms = ["RDIMM"]
ecc = "required"
profile = "none"
total = "512G"
module = "64G"
supported = ["OS4R-32G32", "OS4R-64G32"]

[[memory.slot]]
name = "A1"
channel = "A"

[[memory.slot]]
name = "E1"
channel = "E"

[[memory.slot]]
name = "B1"
channel = "B"

[[memory.slot]]
name = "F1"
channel = "F"

[[memory.slot]]
name = "C1"
channel = "C"

[[memory.slot]]
name = "G1"
channel = "G"

[[memory.slot]]
name = "D1"
channel = "D"

[[memory.slot]]
name = "H1"
channel = "H"

[[memory.rate]]
per_channel = 1
rate = 3200

[start]
usual = "180 s"
longest = "900 s"
signs = ["health light steady"]
');
INSERT INTO "cards" VALUES('larkfield s1','[card]
name = "Larkfield S1"
kind = "small"

[memory]
generation = "DDR4"
forms = ["SODIMM"]
ecc = "unsupported"
profile = "none"
total = "32G"
module = "16G"

[[memory.slot]]
name = "DIMM 0"
channel = "A"

[[memory.slot]]
name = "DIMM 1"
channel = "B"

[[memory.rate]]
per_channel = 1
rate = 2400

[start]
usual = "25 s"
longest = "180 s"
signs = ["light turns white"]
');
INSERT INTO "cards" VALUES('larkfield t1','[card]
name = "Larkfield T1"
kind = "desktop"

[memory]
generation = "DDR4"
forms = ["UDIMM"]
ecc = "unsupported"
profile = "choice"
total = "64G"
module = "32G"

[[memory.slot]]
name = "A2"
channel = "A"

[[memory.slot]]
name = "B2"
channel = "B"

[[memory.slot]]
name = "A1"
channel = "A"

[[memory.slot]]
name = "B1"
channel = "B"

[[memory.rate]]
per_channel = 1
rate = 3200

[[memory.rate]]
per_channel = 2
rate = 2933

[start]
usual = "35 s"
longest = "360 s"
signs = ["one short beep", "fans slow down"]
');
INSERT INTO "cards" VALUES('larkfield t2','[card]
name = "Larkfield T2"
kind = "desktop"

[memory]
generation = "DDR5"
forms = ["UDIMM"]
ecc = "unsupported"
profile = "choice"
total = "192G"
module = "48G"

[[memory.slot]]
name = "A2"
channel = "A"

[[memory.slot]]
name = "B2"
channel = "B"

[[memory.slot]]
name = "A1"
channel = "A"

[[memory.slot]]
name = "B1"
channel = "B"

[[memory.rate]]
per_channel = 1
rate = 7200

[[memory.rate]]
per_channel = 2
rate = 5200

[start]
usual = "40 s"
longest = "480 s"
signs = ["one short beep", "fans slow down"]
');
INSERT INTO "cards" VALUES('merle a1','[card]
name = "Merle A1"
kind = "all-in-one"

[memory]
generation = "DDR3"
forms = ["SODIMM"]
ecc = "unsupported"
profile = "none"
total = "8G"
module = "4G"

[[memory.slot]]
name = "A1"
channel = "A"

[[memory.slot]]
name = "B1"
channel = "B"

[[memory.rate]]
per_channel = 1
rate = 1600

[start]
usual = "30 s"
longest = "180 s"
signs = ["screen lights up"]
');
INSERT INTO "cards" VALUES('whin k5','[card]
name = "Whin K5"
kind = "desktop"

[memory]
generation = "DDR4"
forms = ["UDIMM"]
ecc = "unsupported"
profile = "locked"
total = "32G"
module = "16G"

[[memory.slot]]
name = "A1"
channel = "A"

[[memory.slot]]
name = "B1"
channel = "B"

[[memory.rate]]
per_channel = 1
rate = 3200

[start]
usual = "30 s"
longest = "240 s"
signs = ["one short beep"]
');
CREATE TABLE drafts (
	place VARCHAR(80) NOT NULL, 
	text TEXT NOT NULL, 
	CONSTRAINT pk_drafts PRIMARY KEY (place)
);
CREATE TABLE evidence (
	sha256 VARCHAR(64) NOT NULL, 
	data BLOB NOT NULL, 
	CONSTRAINT pk_evidence PRIMARY KEY (sha256)
);
INSERT INTO "evidence" VALUES('aaf631698ae5160ceb04a97681a14887fdcab47cd6e0f163c87485b3b1340b62',X'7838365F36340A');
INSERT INTO "evidence" VALUES('5cd1089f65c6208a9e1fcc1f4962cc6309edc00a06effb94013b6e7c905b5c97',X'00140000010200E003FF0000080000000000010044756E6C696E206669726D7761726500312E30390030332F30322F323032360000011B0100010200031111111111111111111111111111111106000044756E6C696E0044756E6C696E20313400444E31342D37373831000002090200010200000044756E6C696E0044756E6C696E2031340000041A0400010302020000000000000000038064008813B80B4101536F636B657420310053696D756C61746564005369782D636F7265206D6F62696C652070726F636573736F7200001017001003030300008002FEFF020000000000000000000000112800110010FEFF4000400000200B0001001A8000800C020000030100000000800CB004B004B0044368616E6E656C412D44494D4D30005461726E686F6C6C6F77005448342D4D380000112801110010FEFF00000000000002000100020000000000000000000000000000000000000000004368616E6E656C422D44494D4D300000131F001900000000FFFF7F000010020000000000000000000000000000000000007F04007F0000');
INSERT INTO "evidence" VALUES('f69af0fa7575649cdb807c2ffb3775c24814d50305a2c5dc63e3a21330fe6117',X'5F534D335FFF1803040001009101000000B00E0000000000');
INSERT INTO "evidence" VALUES('35ca85e6b7bb66d21afba1afa3b2e05da85f7f59dad8cced4336121a9ad92f33',X'4D656D546F74616C3A20202020202020202037393936343230206B420A4D656D467265653A2020202020202020202035353937343934206B420A');
INSERT INTO "evidence" VALUES('d49e229757172c53bc45c1ba7c786d28ceed72647091d18858d54a8aa92164bf',X'70726F636573736F72093A20300A6D6F64656C206E616D65093A205369782D636F7265206D6F62696C652070726F636573736F720A666C61677309093A20667075207373652073736532206874206C6D0A');
INSERT INTO "evidence" VALUES('9524e2343691cd67939869acc381c24443d324968e4022b6cbd8e47afb58e1b3',X'00140000010200E003FF0000080000000000010044756E6C696E206669726D7761726500312E30390030332F30322F323032360000011B0100010200031111111111111111111111111111111106000044756E6C696E0044756E6C696E20313400444E31342D37373831000002090200010200000044756E6C696E0044756E6C696E2031340000041A0400010302020000000000000000038064008813B80B4101536F636B657420310053696D756C61746564005369782D636F7265206D6F62696C652070726F636573736F7200001017001003030300008002FEFF020000000000000000000000112800110010FEFF4000400000200B0001001A8000800C020000030100000000800CB004B004B0044368616E6E656C412D44494D4D30005461726E686F6C6C6F77005448342D4D380000112801110010FEFF4000400000200D0001001A8040800C020300040100000000800CB004B004B0044368616E6E656C422D44494D4D30005175696C6C6D61726B00353143304137443200514D34532D333230302D380000131F001900000000FFFFFF000010020000000000000000000000000000000000007F04007F0000');
INSERT INTO "evidence" VALUES('d6e219206d6ca9fd09ab07955b36d803032417189277c75d7f15bbfeeb2adf93',X'5F534D335FE0180304000100B001000000B00E0000000000');
INSERT INTO "evidence" VALUES('2e2a4845fcc414fc6eacdb7cd448dab771c4428e41a25622188a50fef17bf73d',X'4D656D546F74616C3A20202020202020203136323430393136206B420A4D656D467265653A2020202020202020203131333638363431206B420A');
INSERT INTO "evidence" VALUES('bd91585658e3f154879ca9049424a5c1944262a189806dfcc225954c6a1e85c1',X'41313D344720444452342D3234303020736F64696D6D20656363206D616B6572204F737472656C2070617274204F5334452D323430302D343B2042313D2D3B2072756E20323430303B20746F74616C20343039364D423B20766961206F74686572');
INSERT INTO "evidence" VALUES('2a7eb3bb12fc205af3233e81e0c2513188d85ec868a4bd217136ff8b96143ae3',X'41313D31364720444452342D3234303020434C313720736F64696D6D20656363206D616B6572205461726E686F6C6C6F77207061727420544834452D323430302D31363B2042313D31364720444452342D3234303020434C313720736F64696D6D20656363206D616B6572205461726E686F6C6C6F77207061727420544834452D323430302D31363B2072756E20323430303B20434C2031373B20746F74616C2033323736384D423B20736F616B20636C65616E203438306D696E203936253B20766961206F74686572');
INSERT INTO "evidence" VALUES('17d334d02377b5f2e640677afdde9f940e28dc357789e26c6a99c064ab707eca',X'41313D2D3B2041323D384720444452342D3236363620434C3139206D616B657220427261636B77617465722070617274204257342D323636362D383B2042313D2D3B2042323D384720444452342D3236363620434C3139206D616B657220427261636B77617465722070617274204257342D323636362D383B2072756E20313333334D487A3B20434C2031393B206475616C');
INSERT INTO "evidence" VALUES('8a4da7b6a58f1c6ee8dbdf0e1479321f7cf0bc4f9eb817519855370e55ff6cb9',X'41313D2D3B2041323D31364720444452342D3332303020434C3232206D616B6572204F737472656C2070617274204F53342D333230302D31362073657269616C203042303041313B2042313D2D3B2042323D31364720444452342D3332303020434C3232206D616B6572204F737472656C2070617274204F53342D333230302D31362073657269616C203042303042323B2072756E20313630304D487A3B20434C2032323B206475616C3B20736F616B206572726F7273203231342034316D696E20393325');
CREATE TABLE jobs (
	id INTEGER NOT NULL, 
	number VARCHAR(40) NOT NULL, 
	title TEXT NOT NULL, 
	machine TEXT NOT NULL, 
	customer TEXT NOT NULL, 
	promise TEXT NOT NULL, 
	created_at DATETIME NOT NULL, 
	changed_at DATETIME NOT NULL, 
	version INTEGER NOT NULL, 
	line TEXT NOT NULL, 
	search TEXT NOT NULL, 
	waits_for VARCHAR(20) NOT NULL, 
	latest VARCHAR(40) NOT NULL, 
	judged_by INTEGER NOT NULL, 
	CONSTRAINT pk_jobs PRIMARY KEY (id), 
	CONSTRAINT uq_jobs_number UNIQUE (number)
);
INSERT INTO "jobs" VALUES(2,'0418','Ringing-hut laptop','Dunlin 14','Skarrow Head Bird Observatory','8G DDR4-3200 soldered; 8G DDR4-3200 sodimm; dual','2026-11-25 18:04:46.000000','2026-11-25 18:04:46.000000',1,'{"number": "0418", "title": "Ringing-hut laptop", "machine": "Dunlin 14", "customer": "Skarrow Head Bird Observatory", "since": "2026-11-23T16:04:46+00:00", "latest": "2026-11-25T13:04:46+00:00", "verdict": "ready", "why": "every promised quantity is kept", "waits_for": "customer", "worst_severity": null, "worst_title": "", "tracks": [{"quantity": "capacity", "status": "kept", "now": 16.0, "promised": 16.0}, {"quantity": "rate", "status": "kept", "now": 3200, "promised": 3200}, {"quantity": "channels", "status": "kept", "now": 2, "promised": 2}, {"quantity": "peak", "status": "kept", "now": 51.2, "promised": 51.2}]}','0418 ringing-hut laptop dunlin 14 skarrow head bird observatory 8g ddr4-3200 soldered; 8g ddr4-3200 sodimm; dual ready capacity.reserved 523.7 mib kept by firmware and system mix.maker different makers: quillmark, tarnhollow soak.none no memory test is on record tarnhollow th4-m8 quillmark qm4s-3200-8 51c0a7d2','customer','2026-11-25T13:04:46+00:00',3);
INSERT INTO "jobs" VALUES(6,'0422','Tide archive','Cairnbox 2','Tide-gauge office','2x16G DDR4-2400 sodimm ecc; dual','2026-11-25 18:04:46.000000','2026-11-25 18:04:46.000000',1,'{"number": "0422", "title": "Tide archive", "machine": "Cairnbox 2", "customer": "Tide-gauge office", "since": "2026-11-17T20:04:46+00:00", "latest": "2026-11-23T14:04:46+00:00", "verdict": "ready", "why": "every promised quantity is kept", "waits_for": "customer", "worst_severity": "tell", "worst_title": "32 GiB fitted, 16 GiB documented as the most", "tracks": [{"quantity": "capacity", "status": "kept", "now": 32.0, "promised": 32.0}, {"quantity": "rate", "status": "kept", "now": 2400, "promised": 2400}, {"quantity": "channels", "status": "kept", "now": 2, "promised": 2}, {"quantity": "peak", "status": "kept", "now": 38.4, "promised": 38.4}, {"quantity": "first_word", "status": null, "now": 14.17, "promised": null}]}','0422 tide archive cairnbox 2 tide-gauge office 2x16g ddr4-2400 sodimm ecc; dual ready limit.total 32 gib fitted, 16 gib documented as the most limit.module the module in a1 has 16 gib, 8 gib documented as the largest limit.module the module in b1 has 16 gib, 8 gib documented as the largest limit.unlisted th4e-2400-16 in a1 is not on the list of supported modules limit.unlisted th4e-2400-16 in b1 is not on the list of supported modules ostrel os4e-2400-4 tarnhollow th4e-2400-16','customer','2026-11-23T14:04:46+00:00',3);
INSERT INTO "jobs" VALUES(9,'0425','Radio desk','Larkfield T1','Skarrow Head Bird Observatory','A2=16G DDR4-3200; B2=16G DDR4-3200; dual','2026-11-25 18:04:46.000000','2026-11-25 18:04:46.000000',1,'{"number": "0425", "title": "Radio desk", "machine": "Larkfield T1", "customer": "Skarrow Head Bird Observatory", "since": "2026-11-23T06:04:46+00:00", "latest": "2026-11-25T08:04:46+00:00", "verdict": "not ready", "why": "1 to fix", "waits_for": "you", "worst_severity": "fix", "worst_title": "The memory test found 214 errors", "tracks": [{"quantity": "capacity", "status": "kept", "now": 32.0, "promised": 32.0}, {"quantity": "rate", "status": "kept", "now": 3200, "promised": 3200}, {"quantity": "channels", "status": "kept", "now": 2, "promised": 2}, {"quantity": "peak", "status": "kept", "now": 51.2, "promised": 51.2}, {"quantity": "first_word", "status": null, "now": 13.75, "promised": null}]}','0425 radio desk larkfield t1 skarrow head bird observatory a2=16g ddr4-3200; b2=16g ddr4-3200; dual not ready soak.errors the memory test found 214 errors brackwater bw4-2666-8 ostrel os4-3200-16 0b00a1 0b00b2','you','2026-11-25T08:04:46+00:00',3);
CREATE TABLE makers (
	bank INTEGER NOT NULL, 
	code INTEGER NOT NULL, 
	name TEXT NOT NULL, 
	CONSTRAINT pk_makers PRIMARY KEY (bank, code)
);
CREATE TABLE reading_evidence (
	id INTEGER NOT NULL, 
	reading_id INTEGER NOT NULL, 
	name TEXT NOT NULL, 
	sha256 VARCHAR(64) NOT NULL, 
	CONSTRAINT pk_reading_evidence PRIMARY KEY (id), 
	CONSTRAINT uq_reading_evidence_reading_id UNIQUE (reading_id, name), 
	CONSTRAINT fk_reading_evidence_reading_id_readings FOREIGN KEY(reading_id) REFERENCES readings (id) ON DELETE CASCADE, 
	CONSTRAINT fk_reading_evidence_sha256_evidence FOREIGN KEY(sha256) REFERENCES evidence (sha256)
);
INSERT INTO "reading_evidence" VALUES(7,3,'sys/firmware/dmi/tables/DMI','5cd1089f65c6208a9e1fcc1f4962cc6309edc00a06effb94013b6e7c905b5c97');
INSERT INTO "reading_evidence" VALUES(8,3,'sys/firmware/dmi/tables/smbios_entry_point','f69af0fa7575649cdb807c2ffb3775c24814d50305a2c5dc63e3a21330fe6117');
INSERT INTO "reading_evidence" VALUES(9,3,'proc/meminfo','35ca85e6b7bb66d21afba1afa3b2e05da85f7f59dad8cced4336121a9ad92f33');
INSERT INTO "reading_evidence" VALUES(10,3,'proc/cpuinfo','d49e229757172c53bc45c1ba7c786d28ceed72647091d18858d54a8aa92164bf');
INSERT INTO "reading_evidence" VALUES(11,3,'proc/sys/kernel/arch','aaf631698ae5160ceb04a97681a14887fdcab47cd6e0f163c87485b3b1340b62');
INSERT INTO "reading_evidence" VALUES(12,4,'sys/firmware/dmi/tables/DMI','9524e2343691cd67939869acc381c24443d324968e4022b6cbd8e47afb58e1b3');
INSERT INTO "reading_evidence" VALUES(13,4,'sys/firmware/dmi/tables/smbios_entry_point','d6e219206d6ca9fd09ab07955b36d803032417189277c75d7f15bbfeeb2adf93');
INSERT INTO "reading_evidence" VALUES(14,4,'proc/meminfo','2e2a4845fcc414fc6eacdb7cd448dab771c4428e41a25622188a50fef17bf73d');
INSERT INTO "reading_evidence" VALUES(15,4,'proc/cpuinfo','d49e229757172c53bc45c1ba7c786d28ceed72647091d18858d54a8aa92164bf');
INSERT INTO "reading_evidence" VALUES(16,4,'proc/sys/kernel/arch','aaf631698ae5160ceb04a97681a14887fdcab47cd6e0f163c87485b3b1340b62');
INSERT INTO "reading_evidence" VALUES(39,11,'notation','bd91585658e3f154879ca9049424a5c1944262a189806dfcc225954c6a1e85c1');
INSERT INTO "reading_evidence" VALUES(40,12,'notation','2a7eb3bb12fc205af3233e81e0c2513188d85ec868a4bd217136ff8b96143ae3');
INSERT INTO "reading_evidence" VALUES(45,17,'notation','17d334d02377b5f2e640677afdde9f940e28dc357789e26c6a99c064ab707eca');
INSERT INTO "reading_evidence" VALUES(46,18,'notation','8a4da7b6a58f1c6ee8dbdf0e1479321f7cf0bc4f9eb817519855370e55ff6cb9');
CREATE TABLE readings (
	id INTEGER NOT NULL, 
	job_id INTEGER NOT NULL, 
	moment VARCHAR(20) NOT NULL, 
	taken_at DATETIME NOT NULL, 
	reading TEXT NOT NULL, 
	CONSTRAINT pk_readings PRIMARY KEY (id), 
	CONSTRAINT fk_readings_job_id_jobs FOREIGN KEY(job_id) REFERENCES jobs (id) ON DELETE CASCADE
);
INSERT INTO "readings" VALUES(3,2,'arrival','2026-11-23 16:04:46.000000','{"slots":[{"name":"ChannelA-DIMM0","filling":"filled","module":{"size_bytes":{"value":8589934592,"source":"firmware table","where":"type 17, handle 0x1100, sys/firmware/dmi/tables/DMI"},"generation":{"value":"DDR4","source":"firmware table","where":"type 17, handle 0x1100, sys/firmware/dmi/tables/DMI"},"form":{"value":"soldered","source":"firmware table","where":"type 17, handle 0x1100, sys/firmware/dmi/tables/DMI"},"rated_mts":{"value":3200,"source":"firmware table","where":"type 17, handle 0x1100, sys/firmware/dmi/tables/DMI"},"running_mts":{"value":3200,"source":"firmware table","where":"type 17, handle 0x1100, sys/firmware/dmi/tables/DMI"},"ranks":{"value":1,"source":"firmware table","where":"type 17, handle 0x1100, sys/firmware/dmi/tables/DMI"},"data_width_bits":{"value":64,"source":"firmware table","where":"type 17, handle 0x1100, sys/firmware/dmi/tables/DMI"},"voltage_mv":{"value":1200,"source":"firmware table","where":"type 17, handle 0x1100, sys/firmware/dmi/tables/DMI"},"ecc":{"value":false,"source":"firmware table","where":"type 17, handle 0x1100, sys/firmware/dmi/tables/DMI"},"maker":{"value":"Tarnhollow","source":"firmware table","where":"type 17, handle 0x1100, sys/firmware/dmi/tables/DMI"},"part":{"value":"TH4-M8","source":"firmware table","where":"type 17, handle 0x1100, sys/firmware/dmi/tables/DMI"}}},{"name":"ChannelB-DIMM0","filling":"empty"}],"slot_count":{"value":2,"source":"firmware table","where":"type 16, sys/firmware/dmi/tables/DMI"},"usable_bytes":{"value":8188334080,"source":"system","where":"proc/meminfo, MemTotal"},"array_limit_bytes":{"value":42949672960,"source":"firmware table","where":"type 16, sys/firmware/dmi/tables/DMI"},"ecc_on":{"value":false,"source":"firmware table","where":"type 16, sys/firmware/dmi/tables/DMI"},"system_bits":{"value":64,"source":"system","where":"proc/sys/kernel/arch"},"virtual":{"value":false,"source":"firmware table","where":"type 0, sys/firmware/dmi/tables/DMI"},"machine":{"maker":{"value":"Dunlin","source":"firmware table","where":"type 1, sys/firmware/dmi/tables/DMI"},"model":{"value":"Dunlin 14","source":"firmware table","where":"type 1, sys/firmware/dmi/tables/DMI"},"serial":{"value":"DN14-7781","source":"firmware table","where":"type 1, sys/firmware/dmi/tables/DMI"},"board":{"value":"Dunlin 14","source":"firmware table","where":"type 2, sys/firmware/dmi/tables/DMI"},"firmware_version":{"value":"1.09","source":"firmware table","where":"type 0, sys/firmware/dmi/tables/DMI"},"firmware_date":{"value":"03/02/2026","source":"firmware table","where":"type 0, sys/firmware/dmi/tables/DMI"},"processor":{"value":"Six-core mobile processor","source":"firmware table","where":"type 4, sys/firmware/dmi/tables/DMI"}},"mapped":[{"first_byte":0,"last_byte":8589934591}],"evidence":[{"name":"sys/firmware/dmi/tables/DMI","sha256":"5cd1089f65c6208a9e1fcc1f4962cc6309edc00a06effb94013b6e7c905b5c97","size_bytes":401},{"name":"sys/firmware/dmi/tables/smbios_entry_point","sha256":"f69af0fa7575649cdb807c2ffb3775c24814d50305a2c5dc63e3a21330fe6117","size_bytes":24},{"name":"proc/meminfo","sha256":"35ca85e6b7bb66d21afba1afa3b2e05da85f7f59dad8cced4336121a9ad92f33","size_bytes":58},{"name":"proc/cpuinfo","sha256":"d49e229757172c53bc45c1ba7c786d28ceed72647091d18858d54a8aa92164bf","size_bytes":81},{"name":"proc/sys/kernel/arch","sha256":"aaf631698ae5160ceb04a97681a14887fdcab47cd6e0f163c87485b3b1340b62","size_bytes":7}],"taken_at":"2026-11-23T16:04:46Z","origin":"samples/0418/arrival"}');
INSERT INTO "readings" VALUES(4,2,'fitted','2026-11-25 13:04:46.000000','{"slots":[{"name":"ChannelA-DIMM0","filling":"filled","module":{"size_bytes":{"value":8589934592,"source":"firmware table","where":"type 17, handle 0x1100, sys/firmware/dmi/tables/DMI"},"generation":{"value":"DDR4","source":"firmware table","where":"type 17, handle 0x1100, sys/firmware/dmi/tables/DMI"},"form":{"value":"soldered","source":"firmware table","where":"type 17, handle 0x1100, sys/firmware/dmi/tables/DMI"},"rated_mts":{"value":3200,"source":"firmware table","where":"type 17, handle 0x1100, sys/firmware/dmi/tables/DMI"},"running_mts":{"value":3200,"source":"firmware table","where":"type 17, handle 0x1100, sys/firmware/dmi/tables/DMI"},"ranks":{"value":1,"source":"firmware table","where":"type 17, handle 0x1100, sys/firmware/dmi/tables/DMI"},"data_width_bits":{"value":64,"source":"firmware table","where":"type 17, handle 0x1100, sys/firmware/dmi/tables/DMI"},"voltage_mv":{"value":1200,"source":"firmware table","where":"type 17, handle 0x1100, sys/firmware/dmi/tables/DMI"},"ecc":{"value":false,"source":"firmware table","where":"type 17, handle 0x1100, sys/firmware/dmi/tables/DMI"},"maker":{"value":"Tarnhollow","source":"firmware table","where":"type 17, handle 0x1100, sys/firmware/dmi/tables/DMI"},"part":{"value":"TH4-M8","source":"firmware table","where":"type 17, handle 0x1100, sys/firmware/dmi/tables/DMI"}}},{"name":"ChannelB-DIMM0","filling":"filled","module":{"size_bytes":{"value":8589934592,"source":"firmware table","where":"type 17, handle 0x1101, sys/firmware/dmi/tables/DMI"},"generation":{"value":"DDR4","source":"firmware table","where":"type 17, handle 0x1101, sys/firmware/dmi/tables/DMI"},"form":{"value":"SODIMM","source":"firmware table","where":"type 17, handle 0x1101, sys/firmware/dmi/tables/DMI"},"rated_mts":{"value":3200,"source":"firmware table","where":"type 17, handle 0x1101, sys/firmware/dmi/tables/DMI"},"running_mts":{"value":3200,"source":"firmware table","where":"type 17, handle 0x1101, sys/firmware/dmi/tables/DMI"},"ranks":{"value":1,"source":"firmware table","where":"type 17, handle 0x1101, sys/firmware/dmi/tables/DMI"},"data_width_bits":{"value":64,"source":"firmware table","where":"type 17, handle 0x1101, sys/firmware/dmi/tables/DMI"},"voltage_mv":{"value":1200,"source":"firmware table","where":"type 17, handle 0x1101, sys/firmware/dmi/tables/DMI"},"ecc":{"value":false,"source":"firmware table","where":"type 17, handle 0x1101, sys/firmware/dmi/tables/DMI"},"maker":{"value":"Quillmark","source":"firmware table","where":"type 17, handle 0x1101, sys/firmware/dmi/tables/DMI"},"part":{"value":"QM4S-3200-8","source":"firmware table","where":"type 17, handle 0x1101, sys/firmware/dmi/tables/DMI"},"serial":{"value":"51C0A7D2","source":"firmware table","where":"type 17, handle 0x1101, sys/firmware/dmi/tables/DMI"}}}],"slot_count":{"value":2,"source":"firmware table","where":"type 16, sys/firmware/dmi/tables/DMI"},"usable_bytes":{"value":16630697984,"source":"system","where":"proc/meminfo, MemTotal"},"array_limit_bytes":{"value":42949672960,"source":"firmware table","where":"type 16, sys/firmware/dmi/tables/DMI"},"ecc_on":{"value":false,"source":"firmware table","where":"type 16, sys/firmware/dmi/tables/DMI"},"system_bits":{"value":64,"source":"system","where":"proc/sys/kernel/arch"},"virtual":{"value":false,"source":"firmware table","where":"type 0, sys/firmware/dmi/tables/DMI"},"machine":{"maker":{"value":"Dunlin","source":"firmware table","where":"type 1, sys/firmware/dmi/tables/DMI"},"model":{"value":"Dunlin 14","source":"firmware table","where":"type 1, sys/firmware/dmi/tables/DMI"},"serial":{"value":"DN14-7781","source":"firmware table","where":"type 1, sys/firmware/dmi/tables/DMI"},"board":{"value":"Dunlin 14","source":"firmware table","where":"type 2, sys/firmware/dmi/tables/DMI"},"firmware_version":{"value":"1.09","source":"firmware table","where":"type 0, sys/firmware/dmi/tables/DMI"},"firmware_date":{"value":"03/02/2026","source":"firmware table","where":"type 0, sys/firmware/dmi/tables/DMI"},"processor":{"value":"Six-core mobile processor","source":"firmware table","where":"type 4, sys/firmware/dmi/tables/DMI"}},"mapped":[{"first_byte":0,"last_byte":17179869183}],"evidence":[{"name":"sys/firmware/dmi/tables/DMI","sha256":"9524e2343691cd67939869acc381c24443d324968e4022b6cbd8e47afb58e1b3","size_bytes":432},{"name":"sys/firmware/dmi/tables/smbios_entry_point","sha256":"d6e219206d6ca9fd09ab07955b36d803032417189277c75d7f15bbfeeb2adf93","size_bytes":24},{"name":"proc/meminfo","sha256":"2e2a4845fcc414fc6eacdb7cd448dab771c4428e41a25622188a50fef17bf73d","size_bytes":58},{"name":"proc/cpuinfo","sha256":"d49e229757172c53bc45c1ba7c786d28ceed72647091d18858d54a8aa92164bf","size_bytes":81},{"name":"proc/sys/kernel/arch","sha256":"aaf631698ae5160ceb04a97681a14887fdcab47cd6e0f163c87485b3b1340b62","size_bytes":7}],"taken_at":"2026-11-25T13:04:46Z","origin":"samples/0418/fitted"}');
INSERT INTO "readings" VALUES(11,6,'arrival','2026-11-17 20:04:46.000000','{"slots":[{"name":"A1","filling":"filled","module":{"size_bytes":{"value":4294967296,"source":"typed"},"generation":{"value":"DDR4","source":"typed"},"form":{"value":"SODIMM","source":"typed"},"rated_mts":{"value":2400,"source":"typed"},"ecc":{"value":true,"source":"typed"},"maker":{"value":"Ostrel","source":"typed"},"part":{"value":"OS4E-2400-4","source":"typed"}}},{"name":"B1","filling":"empty"}],"running_rate":{"value":{"number":2400.0,"unit":""},"source":"typed"},"total_bytes":{"value":4294967296,"source":"typed"},"via":"other","evidence":[{"name":"notation","sha256":"bd91585658e3f154879ca9049424a5c1944262a189806dfcc225954c6a1e85c1","size_bytes":97}],"taken_at":"2026-11-17T20:04:46Z","origin":"samples/0422/arrival.txt"}');
INSERT INTO "readings" VALUES(12,6,'fitted','2026-11-23 14:04:46.000000','{"slots":[{"name":"A1","filling":"filled","module":{"size_bytes":{"value":17179869184,"source":"typed"},"generation":{"value":"DDR4","source":"typed"},"form":{"value":"SODIMM","source":"typed"},"rated_mts":{"value":2400,"source":"typed"},"timings":{"value":{"cl":17},"source":"typed"},"ecc":{"value":true,"source":"typed"},"maker":{"value":"Tarnhollow","source":"typed"},"part":{"value":"TH4E-2400-16","source":"typed"}}},{"name":"B1","filling":"filled","module":{"size_bytes":{"value":17179869184,"source":"typed"},"generation":{"value":"DDR4","source":"typed"},"form":{"value":"SODIMM","source":"typed"},"rated_mts":{"value":2400,"source":"typed"},"timings":{"value":{"cl":17},"source":"typed"},"ecc":{"value":true,"source":"typed"},"maker":{"value":"Tarnhollow","source":"typed"},"part":{"value":"TH4E-2400-16","source":"typed"}}}],"running_rate":{"value":{"number":2400.0,"unit":""},"source":"typed"},"total_bytes":{"value":34359738368,"source":"typed"},"timings":{"value":{"cl":17},"source":"typed"},"soak":{"value":{"errors":0,"minutes":480,"covered_percent":96},"source":"typed"},"via":"other","evidence":[{"name":"notation","sha256":"2a7eb3bb12fc205af3233e81e0c2513188d85ec868a4bd217136ff8b96143ae3","size_bytes":202}],"taken_at":"2026-11-23T14:04:46Z","origin":"samples/0422/fitted.txt"}');
INSERT INTO "readings" VALUES(17,9,'arrival','2026-11-23 06:04:46.000000','{"slots":[{"name":"A1","filling":"empty"},{"name":"A2","filling":"filled","module":{"size_bytes":{"value":8589934592,"source":"typed"},"generation":{"value":"DDR4","source":"typed"},"rated_mts":{"value":2666,"source":"typed"},"timings":{"value":{"cl":19},"source":"typed"},"maker":{"value":"Brackwater","source":"typed"},"part":{"value":"BW4-2666-8","source":"typed"}}},{"name":"B1","filling":"empty"},{"name":"B2","filling":"filled","module":{"size_bytes":{"value":8589934592,"source":"typed"},"generation":{"value":"DDR4","source":"typed"},"rated_mts":{"value":2666,"source":"typed"},"timings":{"value":{"cl":19},"source":"typed"},"maker":{"value":"Brackwater","source":"typed"},"part":{"value":"BW4-2666-8","source":"typed"}}}],"running_rate":{"value":{"number":1333.0,"unit":"MHz"},"source":"typed"},"channels":{"value":2,"source":"typed"},"timings":{"value":{"cl":19},"source":"typed"},"evidence":[{"name":"notation","sha256":"17d334d02377b5f2e640677afdde9f940e28dc357789e26c6a99c064ab707eca","size_bytes":146}],"taken_at":"2026-11-23T06:04:46Z","origin":"samples/0425/arrival.txt"}');
INSERT INTO "readings" VALUES(18,9,'fitted','2026-11-25 08:04:46.000000','{"slots":[{"name":"A1","filling":"empty"},{"name":"A2","filling":"filled","module":{"size_bytes":{"value":17179869184,"source":"typed"},"generation":{"value":"DDR4","source":"typed"},"rated_mts":{"value":3200,"source":"typed"},"timings":{"value":{"cl":22},"source":"typed"},"maker":{"value":"Ostrel","source":"typed"},"part":{"value":"OS4-3200-16","source":"typed"},"serial":{"value":"0B00A1","source":"typed"}}},{"name":"B1","filling":"empty"},{"name":"B2","filling":"filled","module":{"size_bytes":{"value":17179869184,"source":"typed"},"generation":{"value":"DDR4","source":"typed"},"rated_mts":{"value":3200,"source":"typed"},"timings":{"value":{"cl":22},"source":"typed"},"maker":{"value":"Ostrel","source":"typed"},"part":{"value":"OS4-3200-16","source":"typed"},"serial":{"value":"0B00B2","source":"typed"}}}],"running_rate":{"value":{"number":1600.0,"unit":"MHz"},"source":"typed"},"channels":{"value":2,"source":"typed"},"timings":{"value":{"cl":22},"source":"typed"},"soak":{"value":{"errors":214,"minutes":41,"covered_percent":93},"source":"typed"},"evidence":[{"name":"notation","sha256":"8a4da7b6a58f1c6ee8dbdf0e1479321f7cf0bc4f9eb817519855370e55ff6cb9","size_bytes":197}],"taken_at":"2026-11-25T08:04:46Z","origin":"samples/0425/fitted.txt"}');
CREATE INDEX ix_readings_job_id ON readings (job_id);
CREATE INDEX ix_reading_evidence_reading_id ON reading_evidence (reading_id);
COMMIT;

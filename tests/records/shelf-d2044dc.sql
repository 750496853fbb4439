BEGIN TRANSACTION;
CREATE TABLE alembic_version (
	version_num VARCHAR(32) NOT NULL, 
	CONSTRAINT alembic_version_pkc PRIMARY KEY (version_num)
);
INSERT INTO "alembic_version" VALUES('0008');
CREATE TABLE conclusion (
	piece_id INTEGER NOT NULL, 
	record_hash VARCHAR NOT NULL, 
	core_version VARCHAR NOT NULL, 
	tag VARCHAR NOT NULL, 
	family VARCHAR NOT NULL, 
	verdict VARCHAR NOT NULL, 
	danger INTEGER NOT NULL, 
	summary JSON NOT NULL, 
	CONSTRAINT pk_conclusion PRIMARY KEY (piece_id), 
	CONSTRAINT fk_conclusion_piece_id_piece FOREIGN KEY(piece_id) REFERENCES piece (id) ON DELETE CASCADE
);
INSERT INTO "conclusion" VALUES(1,'043c4b5c49f7a9579dc67b5855ea97a31cd436424e71a3036ddce51c8c0867e4','13','S-1','mains','condemned',5,'{"family": "mains", "sure": 0.999776, "danger": 5, "headline": "stop: winding to the core (C\u2013D\u2013E)", "mood": "stop", "reached": "condemned", "next_step": "Stop: repeat C\u2013core before condemning", "sketch": {"shape": "shell", "shunts": false, "windings": [{"role": "primary", "bond": null, "broken": false, "leads": [["A", ""], ["B", ""]]}, {"role": "lv-secondary", "bond": "middle", "broken": true, "leads": [["C", ""], ["E", ""]]}], "loose": [["D", ""]]}}');
INSERT INTO "conclusion" VALUES(2,'c246adb55b865f9da94a21907fdc994651a8d2d0a4896d6c9a3cd36f7edd965c','13','O-1','microwave','screened',4,'{"family": "microwave", "sure": 0.899996, "danger": 4, "headline": "1.8 to 2.5 kV, core live", "mood": "stop", "reached": "cold", "next_step": "First the capacitor", "sketch": {"shape": "shell", "shunts": false, "windings": [{"role": "primary", "bond": null, "broken": false, "leads": [["A", ""], ["B", ""]]}, {"role": "filament", "bond": null, "broken": false, "leads": [["C", ""], ["D", ""]]}, {"role": "hv-secondary", "bond": "end", "broken": false, "leads": [["E", ""]]}], "loose": []}}');
INSERT INTO "conclusion" VALUES(3,'02c8eb92e2e7cf7b7e2395d2b00b67414f3dda7faeab8a7d8266a22a3a0032b2','13','PR-F7','mains','unknown',3,'{"family": "mains", "sure": 0.74897, "danger": 3, "headline": "HV not ruled out", "mood": "caution", "reached": "cold", "next_step": "First the capacitor", "sketch": {"shape": "shell", "shunts": false, "windings": [{"role": "primary", "bond": null, "broken": false, "leads": [["A", ""], ["B", ""]]}, {"role": "lv-secondary", "bond": null, "broken": false, "leads": [["C", ""], ["D", ""]]}], "loose": []}}');
CREATE TABLE donor (
	id INTEGER NOT NULL, 
	uid VARCHAR NOT NULL, 
	body JSON NOT NULL, 
	at VARCHAR NOT NULL, 
	CONSTRAINT pk_donor PRIMARY KEY (id), 
	CONSTRAINT uq_donor_uid UNIQUE (uid)
);
CREATE TABLE entry (
	"key" VARCHAR NOT NULL, 
	tag VARCHAR NOT NULL, 
	said VARCHAR NOT NULL, 
	at VARCHAR NOT NULL, 
	CONSTRAINT pk_entry PRIMARY KEY ("key")
);
CREATE TABLE item (
	id INTEGER NOT NULL, 
	uid VARCHAR NOT NULL, 
	kind VARCHAR NOT NULL, 
	searched VARCHAR NOT NULL, 
	body JSON NOT NULL, 
	gone BOOLEAN NOT NULL, 
	at VARCHAR NOT NULL, 
	CONSTRAINT pk_item PRIMARY KEY (id), 
	CONSTRAINT uq_item_uid UNIQUE (uid)
);
CREATE TABLE output (
	id INTEGER NOT NULL, 
	piece_id INTEGER NOT NULL, 
	name VARCHAR NOT NULL, 
	volts_low FLOAT NOT NULL, 
	volts_high FLOAT NOT NULL, 
	ohms FLOAT NOT NULL, 
	amps_low FLOAT NOT NULL, 
	amps_high FLOAT NOT NULL, 
	minute_low FLOAT NOT NULL, 
	minute_high FLOAT NOT NULL, 
	CONSTRAINT pk_output PRIMARY KEY (id), 
	CONSTRAINT fk_output_piece_id_conclusion FOREIGN KEY(piece_id) REFERENCES conclusion (piece_id) ON DELETE CASCADE
);
INSERT INTO "output" VALUES(1,2,'E–core',1.84697566547398764674e+03,2.4529825986665182427e+03,1.98673516088503674835e+02,1.67438856907658389916e-01,1.06452390950142228298e+00,3.3941981716199393082e-01,4.72625320593606801367e+00);
INSERT INTO "output" VALUES(2,3,'C–D',3.8330659329961878079e+00,3.19254373911888862376e+01,2.08347084099497592557e-01,1.84081156538002543854e+00,6.54774837566863610049e+00,3.73155871038674202821e+00,2.90705699289182781805e+01);
CREATE TABLE photo (
	id INTEGER NOT NULL, 
	piece_id INTEGER NOT NULL, 
	file VARCHAR NOT NULL, 
	picture BLOB NOT NULL, 
	at VARCHAR NOT NULL, 
	CONSTRAINT pk_photo PRIMARY KEY (id), 
	CONSTRAINT fk_photo_piece_id_piece FOREIGN KEY(piece_id) REFERENCES piece (id) ON DELETE CASCADE, 
	CONSTRAINT uq_photo_piece_id UNIQUE (piece_id, file)
);
CREATE TABLE piece (
	id INTEGER NOT NULL, 
	uid VARCHAR NOT NULL, 
	tag VARCHAR NOT NULL, 
	tag_folded VARCHAR NOT NULL, 
	title VARCHAR NOT NULL, 
	head JSON NOT NULL, 
	version INTEGER NOT NULL, 
	record_hash VARCHAR NOT NULL, 
	created_at VARCHAR NOT NULL, 
	CONSTRAINT pk_piece PRIMARY KEY (id), 
	CONSTRAINT uq_piece_uid UNIQUE (uid), 
	CONSTRAINT uq_piece_tag_folded UNIQUE (tag_folded), 
	CONSTRAINT ck_piece_ck_piece_tag_length CHECK (length(tag) between 1 and 24)
);
INSERT INTO "piece" VALUES(1,'ad052812-eb78-4ac6-b816-ae533dab509e','S-1','s-1','Site transformer','{"format": "greyfell.transformer/1", "id": "ad052812-eb78-4ac6-b816-ae533dab509e", "tag": "S-1", "title": "Site transformer", "supply": {"volts": 230, "hertz": 50}, "nameplate": {"primary_volts": 230.0, "hertz": 50.0, "secondary_volts": 110.0, "va": 1500.0, "midpoint_earthed": true, "text": "230/110 V CTE"}, "core": {"shape": "shell", "tongue_mm": 60.0, "stack_mm": 66.0, "mass_kg": 14.5}, "leads": [{"id": "A"}, {"id": "B"}, {"id": "C"}, {"id": "D"}, {"id": "E"}], "statements": [{"id": "s1", "kind": "salvage-done", "concerns": "capacitor", "text": "unplugged, discharged through the stick, 0.3 V twice", "at": "2026-06-02T10:00:30+01:00"}, {"id": "s2", "kind": "bonded-by-design", "concerns": "C", "text": "110 V centre tap earthed, as the plate says", "at": "2026-06-02T10:14:00+01:00"}]}',1,'043c4b5c49f7a9579dc67b5855ea97a31cd436424e71a3036ddce51c8c0867e4','2026-12-02T07:21:48+00:00');
INSERT INTO "piece" VALUES(2,'2e420bfd-4ea2-4fc1-ba6c-54bcd6dbd5ec','O-1','o-1','Oven transformer','{"format": "greyfell.transformer/1", "id": "2e420bfd-4ea2-4fc1-ba6c-54bcd6dbd5ec", "tag": "O-1", "title": "Oven transformer", "supply": {"volts": 230, "hertz": 50}, "leads": [{"id": "A"}, {"id": "B"}, {"id": "C"}, {"id": "D"}, {"id": "E"}]}',1,'c246adb55b865f9da94a21907fdc994651a8d2d0a4896d6c9a3cd36f7edd965c','2026-12-02T07:21:48+00:00');
INSERT INTO "piece" VALUES(3,'4e6dd2c5-68e0-42a2-aaf3-65f616639d04','PR-F7','pr-f7','Practice piece 7','{"format": "greyfell.transformer/1", "id": "4e6dd2c5-68e0-42a2-aaf3-65f616639d04", "tag": "PR-F7", "title": "Practice piece 7", "supply": {"volts": 230, "hertz": 50}, "leads": [{"id": "A"}, {"id": "B"}, {"id": "C"}, {"id": "D"}]}',1,'02c8eb92e2e7cf7b7e2395d2b00b67414f3dda7faeab8a7d8266a22a3a0032b2','2026-12-02T07:21:48+00:00');
CREATE TABLE "plan" (
	id INTEGER NOT NULL, 
	uid VARCHAR NOT NULL, 
	planner VARCHAR NOT NULL, 
	tag VARCHAR NOT NULL, 
	body JSON NOT NULL, 
	at VARCHAR NOT NULL, 
	CONSTRAINT pk_plan PRIMARY KEY (id), 
	CONSTRAINT uq_plan_uid UNIQUE (uid)
);
CREATE TABLE reading (
	id INTEGER NOT NULL, 
	piece_id INTEGER NOT NULL, 
	reading_id VARCHAR NOT NULL, 
	kind VARCHAR NOT NULL, 
	body JSON NOT NULL, 
	CONSTRAINT pk_reading PRIMARY KEY (id), 
	CONSTRAINT fk_reading_piece_id_piece FOREIGN KEY(piece_id) REFERENCES piece (id) ON DELETE CASCADE, 
	CONSTRAINT uq_reading_piece_id UNIQUE (piece_id, reading_id)
);
INSERT INTO "reading" VALUES(1,1,'r1','core_proof','{"id": "r1", "at": "2026-06-02T10:01:00+01:00", "kind": "core_proof", "ohms": 0.1}');
INSERT INTO "reading" VALUES(2,1,'r2','resistance','{"id": "r2", "at": "2026-06-02T10:02:00+01:00", "kind": "resistance", "between": ["A", "B"], "ohms": 0.9, "probe_ohms": 0.1}');
INSERT INTO "reading" VALUES(3,1,'r3','resistance','{"id": "r3", "at": "2026-06-02T10:03:00+01:00", "kind": "resistance", "between": ["C", "E"], "ohms": 0.18, "probe_ohms": 0.1}');
INSERT INTO "reading" VALUES(4,1,'r4','resistance','{"id": "r4", "at": "2026-06-02T10:04:00+01:00", "kind": "resistance", "between": ["C", "core"], "ohms": 0.18, "probe_ohms": 0.1}');
INSERT INTO "reading" VALUES(5,1,'r5','resistance','{"id": "r5", "at": "2026-06-02T10:05:00+01:00", "kind": "resistance", "between": ["E", "core"], "ohms": 0.18, "probe_ohms": 0.1}');
INSERT INTO "reading" VALUES(6,1,'r6','resistance','{"id": "r6", "at": "2026-06-02T10:06:00+01:00", "kind": "resistance", "between": ["D", "core"], "ohms": 0.1, "probe_ohms": 0.1}');
INSERT INTO "reading" VALUES(7,1,'r7','resistance','{"id": "r7", "at": "2026-06-02T10:07:00+01:00", "kind": "resistance", "between": ["A", "core"], "ohms": "open", "range_ohms": 20000000.0}');
INSERT INTO "reading" VALUES(8,1,'r8','resistance','{"id": "r8", "at": "2026-06-02T10:08:00+01:00", "kind": "resistance", "between": ["A", "C"], "ohms": "open", "range_ohms": 20000000.0}');
INSERT INTO "reading" VALUES(9,1,'r9','insulation','{"id": "r9", "at": "2026-06-02T10:09:00+01:00", "kind": "insulation", "between": ["A", "core"], "ohms": "open", "test_volts": 500.0, "range_ohms": 2000000000.0}');
INSERT INTO "reading" VALUES(10,1,'r10','insulation','{"id": "r10", "at": "2026-06-02T10:10:00+01:00", "kind": "insulation", "between": ["A", "C"], "ohms": "open", "test_volts": 500.0, "range_ohms": 2000000000.0}');
INSERT INTO "reading" VALUES(11,1,'r11','ratio','{"id": "r11", "at": "2026-06-02T10:11:00+01:00", "kind": "ratio", "driven": ["A", "B"], "driven_volts": 24.0, "sensed": ["C", "E"], "sensed_volts": 11.8}');
INSERT INTO "reading" VALUES(12,1,'r12','dc_drop','{"id": "r12", "at": "2026-06-02T10:12:00+01:00", "kind": "dc_drop", "across": ["earth", "core"], "volts": 0.3, "amps": 10.0}');
INSERT INTO "reading" VALUES(13,1,'r13','resistance','{"id": "r13", "at": "2026-06-02T10:13:00+01:00", "kind": "resistance", "between": ["B", "core"], "ohms": "open", "range_ohms": 20000000.0}');
INSERT INTO "reading" VALUES(14,2,'r1','core_proof','{"id": "r1", "at": "2026-06-02T10:15:00+01:00", "kind": "core_proof", "ohms": 0.1}');
INSERT INTO "reading" VALUES(15,2,'r2','resistance','{"id": "r2", "at": "2026-06-02T10:16:00+01:00", "kind": "resistance", "between": ["A", "B"], "ohms": 1.3, "probe_ohms": 0.1}');
INSERT INTO "reading" VALUES(16,2,'r3','resistance','{"id": "r3", "at": "2026-06-02T10:17:00+01:00", "kind": "resistance", "between": ["C", "D"], "ohms": 0.1, "probe_ohms": 0.1}');
INSERT INTO "reading" VALUES(17,2,'r4','resistance','{"id": "r4", "at": "2026-06-02T10:18:00+01:00", "kind": "resistance", "between": ["E", "core"], "ohms": 96.0, "probe_ohms": 0.1}');
INSERT INTO "reading" VALUES(18,2,'r5','resistance','{"id": "r5", "at": "2026-06-02T10:19:00+01:00", "kind": "resistance", "between": ["A", "C"], "ohms": "open", "range_ohms": 20000000.0}');
INSERT INTO "reading" VALUES(19,2,'r6','resistance','{"id": "r6", "at": "2026-06-02T10:20:00+01:00", "kind": "resistance", "between": ["A", "E"], "ohms": "open", "range_ohms": 20000000.0}');
INSERT INTO "reading" VALUES(20,2,'r7','resistance','{"id": "r7", "at": "2026-06-02T10:21:00+01:00", "kind": "resistance", "between": ["C", "E"], "ohms": "open", "range_ohms": 20000000.0}');
INSERT INTO "reading" VALUES(21,2,'r8','resistance','{"id": "r8", "at": "2026-06-02T10:22:00+01:00", "kind": "resistance", "between": ["A", "core"], "ohms": "open", "range_ohms": 20000000.0}');
INSERT INTO "reading" VALUES(22,2,'r9','resistance','{"id": "r9", "at": "2026-06-02T10:23:00+01:00", "kind": "resistance", "between": ["C", "core"], "ohms": "open", "range_ohms": 20000000.0}');
INSERT INTO "reading" VALUES(23,3,'r1','core_proof','{"id": "r1", "at": "2026-06-02T10:24:00+01:00", "kind": "core_proof", "ohms": 0.1}');
INSERT INTO "reading" VALUES(24,3,'r2','resistance','{"id": "r2", "at": "2026-06-02T10:25:00+01:00", "kind": "resistance", "between": ["A", "B"], "ohms": 33.0, "probe_ohms": 0.1}');
INSERT INTO "reading" VALUES(25,3,'r3','resistance','{"id": "r3", "at": "2026-06-02T10:26:00+01:00", "kind": "resistance", "between": ["C", "D"], "ohms": 0.2, "probe_ohms": 0.1}');
INSERT INTO "reading" VALUES(26,3,'r4','resistance','{"id": "r4", "at": "2026-06-02T10:27:00+01:00", "kind": "resistance", "between": ["A", "C"], "ohms": "open", "range_ohms": 20000000.0}');
CREATE TABLE strike (
	reading_pk INTEGER NOT NULL, 
	body JSON NOT NULL, 
	CONSTRAINT pk_strike PRIMARY KEY (reading_pk), 
	CONSTRAINT fk_strike_reading_pk_reading FOREIGN KEY(reading_pk) REFERENCES reading (id) ON DELETE CASCADE
);
CREATE TABLE tally (
	family VARCHAR NOT NULL, 
	verdict VARCHAR NOT NULL, 
	pieces INTEGER NOT NULL, 
	CONSTRAINT pk_tally PRIMARY KEY (family, verdict)
);
INSERT INTO "tally" VALUES('mains','condemned',1);
INSERT INTO "tally" VALUES('microwave','screened',1);
INSERT INTO "tally" VALUES('mains','unknown',1);
CREATE INDEX ix_piece_record_hash ON piece (record_hash);
CREATE INDEX ix_reading_piece_id ON reading (piece_id);
CREATE TRIGGER tally_insert AFTER INSERT ON conclusion BEGIN 
INSERT INTO tally (family, verdict, pieces) VALUES (new.family, new.verdict, 1)
ON CONFLICT (family, verdict) DO UPDATE SET pieces = pieces + 1;
 END;
CREATE TRIGGER tally_delete AFTER DELETE ON conclusion BEGIN 
INSERT INTO tally (family, verdict, pieces) VALUES (old.family, old.verdict, -1)
ON CONFLICT (family, verdict) DO UPDATE SET pieces = pieces + -1;
 END;
CREATE TRIGGER tally_update AFTER UPDATE OF family, verdict ON conclusion BEGIN 
INSERT INTO tally (family, verdict, pieces) VALUES (old.family, old.verdict, -1)
ON CONFLICT (family, verdict) DO UPDATE SET pieces = pieces + -1;

INSERT INTO tally (family, verdict, pieces) VALUES (new.family, new.verdict, 1)
ON CONFLICT (family, verdict) DO UPDATE SET pieces = pieces + 1;
 END;
CREATE INDEX ix_conclusion_danger ON conclusion (danger DESC, tag);
CREATE INDEX ix_conclusion_family ON conclusion (family, danger DESC, tag);
CREATE INDEX ix_conclusion_verdict ON conclusion (verdict, danger DESC, tag);
CREATE INDEX ix_conclusion_core_version ON conclusion (core_version);
CREATE INDEX ix_conclusion_tag ON conclusion (tag);
CREATE INDEX ix_conclusion_newest ON conclusion (verdict, piece_id);
CREATE INDEX ix_piece_tag ON piece (tag);
CREATE INDEX ix_entry_at ON entry (at);
CREATE INDEX ix_output_piece_id ON output (piece_id);
CREATE INDEX ix_output_volts_high ON output (volts_high, volts_low);
CREATE INDEX ix_piece_plate ON piece (json_extract(head, '$.nameplate.text'));
CREATE INDEX ix_piece_title ON piece (title COLLATE NOCASE);
CREATE INDEX ix_item_kind ON item (kind);
CREATE INDEX ix_piece_donor ON piece (json_extract(head, '$.donor.id'));
CREATE INDEX ix_plan_planner ON "plan" (planner);
CREATE INDEX ix_plan_tag ON "plan" (tag);
CREATE INDEX ix_reading_kind ON reading (kind);
COMMIT;

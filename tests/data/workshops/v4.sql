PRAGMA application_id = 1296123724;
PRAGMA user_version = 4;
BEGIN TRANSACTION;
CREATE TABLE account(
        id INTEGER PRIMARY KEY,
        sort TEXT NOT NULL CHECK(sort IN ('outside', 'bench', 'lot', 'plan', 'build', 'lost')),
        part TEXT NOT NULL DEFAULT '',
        name TEXT NOT NULL DEFAULT '',
        first_phase INTEGER NOT NULL DEFAULT 0,
        UNIQUE(sort, part, name)
    );
INSERT INTO "account" VALUES(1,'outside','','',0);
INSERT INTO "account" VALUES(2,'bench','','',0);
INSERT INTO "account" VALUES(3,'lot','rolo','lot 1',0);
INSERT INTO "account" VALUES(4,'plan','rolo','day: Rose, teal | long × 1 | lot 1',0);
CREATE TABLE balance(
        account INTEGER NOT NULL REFERENCES account(id),
        part TEXT NOT NULL,
        amount INTEGER NOT NULL,
        PRIMARY KEY(account, part)
    ) WITHOUT ROWID;
INSERT INTO "balance" VALUES(1,'ring-4',-200);
INSERT INTO "balance" VALUES(1,'rolo',-200);
INSERT INTO "balance" VALUES(2,'ring-4',200);
INSERT INTO "balance" VALUES(3,'rolo',0);
INSERT INTO "balance" VALUES(4,'rolo',200);
CREATE TABLE build(                -- pieces in the making
        id INTEGER PRIMARY KEY,
        name TEXT NOT NULL,
        begun TEXT NOT NULL,
        ended TEXT NOT NULL DEFAULT '',
        given TEXT NOT NULL,           -- the piece as it was begun, as piece files write it
        piece TEXT NOT NULL,           -- as it is now
        working TEXT NOT NULL          -- school and habits
    , wearer TEXT NOT NULL DEFAULT '', things TEXT NOT NULL DEFAULT '', minutes REAL NOT NULL DEFAULT 0, metal_g REAL NOT NULL DEFAULT 0, cost TEXT NOT NULL DEFAULT '');
INSERT INTO "build" VALUES(1,'Usher''s Y','2026-01-02T10:00','2026-01-02T11:00','{"name": "Usher''s Y", "wearer": {"role": "the stage hand", "neck_mm": 400.0, "wrist_mm": 190.0, "ankle_mm": 250.0, "hand_mm": 235.0, "head_mm": 590.0, "ease_mm": 20.0}, "form": {"kind": "bust", "pins_mm": 140.0}, "parts": [{"kind": "chain", "id": "long-short", "name": "Long-short chain", "material": "gunmetal", "pitches_mm": [7.0, 3.0, 3.0], "inner_width_mm": 2.4, "wire_mm": 0.8, "mass_g_per_m": 11.0, "price_per_m": 8.0}, {"kind": "ring", "id": "ring-4", "name": "Jump ring 4 mm", "price": 0.03, "wire_mm": 0.8, "inner_mm": 4.0}, {"kind": "ring", "id": "ring-3", "name": "Jump ring 3 mm", "price": 0.02, "wire_mm": 0.7, "inner_mm": 3.0}, {"kind": "ring", "id": "ring-5", "name": "Jump ring 5 mm", "price": 0.04, "wire_mm": 1.0, "inner_mm": 5.0}, {"kind": "ring", "id": "ring-6", "name": "Jump ring 6 mm", "material": "gunmetal", "price": 0.05, "wire_mm": 1.0, "inner_mm": 6.0}, {"kind": "clasp", "id": "lobster-10", "name": "Lobster clasp 10 mm", "mass_g": 0.6, "price": 0.5, "span_mm": 9.0, "eye_mm": 1.6, "gape_mm": 1.6, "jaw_wire_mm": 1.1, "width_mm": 5.0}, {"kind": "charm", "id": "key-22", "name": "Little key", "mass_g": 1.6, "price": 0.9, "height_mm": 22.0, "width_mm": 9.0, "loop_mm": 2.4, "loop_wire_mm": 1.0, "shape": "key"}], "runs": [{"name": "Y", "centre": {"kind": "rings", "part": "ring-6"}, "items": [{"kind": "chain", "part": "long-short", "links": 57}, {"kind": "rings", "part": "ring-4"}]}, {"name": "Tail", "kind": "drop", "lies": "fold", "items": [{"kind": "rings", "part": "ring-4"}, {"kind": "chain", "part": "long-short", "links": 9}, {"kind": "rings", "part": "ring-3"}, {"kind": "part", "part": "key-22"}], "start": {"run": "Y", "item": 0, "at": 0}}], "closure": {"kind": "clasp", "clasp": "lobster-10", "catch": "ring-5"}, "fits": [{"kind": "length", "name": "fall of the strand", "to": "fall", "mm": 57.0}], "note": "A plain Y on long-short chain."}','{"name": "Usher''s Y", "wearer": {"role": "the stage hand", "neck_mm": 400.0, "wrist_mm": 190.0, "ankle_mm": 250.0, "hand_mm": 235.0, "head_mm": 590.0, "ease_mm": 20.0}, "form": {"kind": "bust", "pins_mm": 140.0}, "parts": [{"kind": "chain", "id": "long-short", "name": "Long-short chain", "material": "gunmetal", "pitches_mm": [7.0, 3.0, 3.0], "inner_width_mm": 2.4, "wire_mm": 0.8, "mass_g_per_m": 11.0, "price_per_m": 8.0}, {"kind": "ring", "id": "ring-4", "name": "Jump ring 4 mm", "price": 0.03, "wire_mm": 0.8, "inner_mm": 4.0}, {"kind": "ring", "id": "ring-3", "name": "Jump ring 3 mm", "price": 0.02, "wire_mm": 0.7, "inner_mm": 3.0}, {"kind": "ring", "id": "ring-5", "name": "Jump ring 5 mm", "price": 0.04, "wire_mm": 1.0, "inner_mm": 5.0}, {"kind": "ring", "id": "ring-6", "name": "Jump ring 6 mm", "material": "gunmetal", "price": 0.05, "wire_mm": 1.0, "inner_mm": 6.0}, {"kind": "clasp", "id": "lobster-10", "name": "Lobster clasp 10 mm", "mass_g": 0.6, "price": 0.5, "span_mm": 9.0, "eye_mm": 1.6, "gape_mm": 1.6, "jaw_wire_mm": 1.1, "width_mm": 5.0}, {"kind": "charm", "id": "key-22", "name": "Little key", "mass_g": 1.6, "price": 0.9, "height_mm": 22.0, "width_mm": 9.0, "loop_mm": 2.4, "loop_wire_mm": 1.0, "shape": "key"}], "runs": [{"name": "Y", "centre": {"kind": "rings", "part": "ring-6"}, "items": [{"kind": "chain", "part": "long-short", "links": 57}, {"kind": "rings", "part": "ring-4"}]}, {"name": "Tail", "kind": "drop", "lies": "fold", "items": [{"kind": "rings", "part": "ring-4"}, {"kind": "chain", "part": "long-short", "links": 9}, {"kind": "rings", "part": "ring-3"}, {"kind": "part", "part": "key-22"}], "start": {"run": "Y", "item": 0, "at": 0}}], "closure": {"kind": "clasp", "clasp": "lobster-10", "catch": "ring-5"}, "fits": [{"kind": "length", "name": "fall of the strand", "to": "fall", "mm": 57.0}], "note": "A plain Y on long-short chain."}','{}','the stage hand','Long-short chain · Jump ring 4 mm · Jump ring 3 mm · Jump ring 5 mm · Jump ring 6 mm · Lobster clasp 10 mm · Little key',1.5,0.0,'');
CREATE TABLE build_note(
        id INTEGER PRIMARY KEY,
        build INTEGER NOT NULL REFERENCES build(id),
        at TEXT NOT NULL,
        step TEXT NOT NULL,
        sort TEXT NOT NULL CHECK(sort IN ('note', 'changed', 'measured', 'spoilt', 'undone')),
        words TEXT NOT NULL,
        value REAL
    );
INSERT INTO "build_note" VALUES(1,1,'2026-01-02T10:10','','note','left by hand',NULL);
CREATE TABLE correction(           -- what was taken over of all this
        what TEXT NOT NULL,
        about TEXT NOT NULL,
        value REAL NOT NULL,
        at TEXT NOT NULL,
        PRIMARY KEY(what, about)
    ) WITHOUT ROWID;
CREATE TABLE cut_for(              -- which cut of the stock was for which mark of a build
        event INTEGER PRIMARY KEY REFERENCES event(id),
        build INTEGER NOT NULL REFERENCES build(id),
        place TEXT NOT NULL
    );
CREATE TABLE event(
        id INTEGER PRIMARY KEY,
        at TEXT NOT NULL,
        sort TEXT NOT NULL CHECK(sort IN ('bought', 'counted', 'reserve', 'release', 'cut', 'use',
                                          'return', 'spoilt', 'reversal')),
        plan TEXT NOT NULL DEFAULT '',
        reverses INTEGER UNIQUE REFERENCES event(id),
        note TEXT NOT NULL DEFAULT ''
    );
INSERT INTO "event" VALUES(1,'2026-01-01T10:00','bought','',NULL,'');
INSERT INTO "event" VALUES(2,'2026-11-20T10:00:00','bought','',NULL,'');
INSERT INTO "event" VALUES(3,'2026-11-20T10:00:00','reserve','day: Rose, teal | long × 1',NULL,'');
CREATE TABLE kept(                 -- records, as piece files write them
        sort TEXT NOT NULL CHECK(sort IN ('part', 'unit', 'wearer', 'form')),
        id TEXT NOT NULL,
        data TEXT NOT NULL,
        PRIMARY KEY(sort, id)
    );
INSERT INTO "kept" VALUES('part','ring-4','{"kind": "ring", "id": "ring-4", "name": "Jump ring 4 mm", "inner_mm": 4.0, "wire_mm": 0.8}');
INSERT INTO "kept" VALUES('wearer','Prompter','{"role": "Prompter", "neck_mm": 372.0}');
CREATE TABLE mark(                 -- what is done, by its place
        build INTEGER NOT NULL REFERENCES build(id),
        place TEXT NOT NULL,
        sign TEXT NOT NULL,            -- what it was, to be compared
        sort TEXT NOT NULL,
        words TEXT NOT NULL,
        at TEXT NOT NULL,
        seconds REAL NOT NULL,
        UNIQUE(build, place)
    );
INSERT INTO "mark" VALUES(1,'a','x','cut','','2026-01-02T10:10',90.0);
CREATE TABLE measure(              -- measured against planned, mm
        id INTEGER PRIMARY KEY,
        build INTEGER NOT NULL REFERENCES build(id),
        data TEXT NOT NULL
    );
CREATE TABLE movement(
        event INTEGER NOT NULL REFERENCES event(id),
        part TEXT NOT NULL,
        amount INTEGER NOT NULL CHECK(amount > 0),
        source INTEGER NOT NULL REFERENCES account(id),
        target INTEGER NOT NULL REFERENCES account(id),
        CHECK(source <> target)
    );
INSERT INTO "movement" VALUES(1,'ring-4',200,1,2);
INSERT INTO "movement" VALUES(2,'rolo',200,1,3);
INSERT INTO "movement" VALUES(3,'rolo',200,3,4);
CREATE TABLE photo(
        id INTEGER PRIMARY KEY,
        build INTEGER NOT NULL REFERENCES build(id),
        file TEXT NOT NULL,
        words TEXT NOT NULL DEFAULT ''
    );
CREATE TABLE piece(                -- saved pieces, and what each is made of
        place TEXT PRIMARY KEY,        -- its file, or the name of one of the demo
        name TEXT NOT NULL,
        things TEXT NOT NULL           -- ids of its parts and units
    ) WITHOUT ROWID;
INSERT INTO "piece" VALUES('old.json','Old','["ring-4"]');
CREATE TABLE setting(              -- rules, minutes, rates, and the workshop's own name
        sort TEXT NOT NULL CHECK(sort IN ('rule', 'minutes', 'rate', 'about')),
        name TEXT NOT NULL,
        value TEXT NOT NULL,
        PRIMARY KEY(sort, name)
    ) WITHOUT ROWID;
INSERT INTO "setting" VALUES('rule','tangle_mm','15.0');
CREATE TABLE spent(                -- minutes of a build by kinds of step
        build INTEGER NOT NULL REFERENCES build(id),
        kind TEXT NOT NULL,
        number REAL NOT NULL,
        minutes REAL NOT NULL,
        PRIMARY KEY(build, kind)
    ) WITHOUT ROWID;
CREATE INDEX movement_event ON movement(event);
CREATE TRIGGER movement_stays BEFORE UPDATE ON movement
        BEGIN SELECT RAISE(ABORT, 'a movement is never changed'); END;
CREATE TRIGGER movement_remains BEFORE DELETE ON movement
        BEGIN SELECT RAISE(ABORT, 'a movement is never taken out'); END;
CREATE TRIGGER event_stays BEFORE UPDATE ON event
        BEGIN SELECT RAISE(ABORT, 'an event is never changed'); END;
CREATE TRIGGER event_remains BEFORE DELETE ON event
        BEGIN SELECT RAISE(ABORT, 'an event is never taken out'); END;
CREATE TRIGGER no_overdraft BEFORE INSERT ON movement
        WHEN (SELECT sort FROM account WHERE id = NEW.source) <> 'outside'
            AND coalesce((SELECT amount FROM balance
                          WHERE account = NEW.source AND part = NEW.part), 0) < NEW.amount
        BEGIN SELECT RAISE(ABORT, 'overdraft'); END;
CREATE TRIGGER balanced AFTER INSERT ON movement
        BEGIN
            INSERT INTO balance VALUES(NEW.source, NEW.part, -NEW.amount)
                ON CONFLICT DO UPDATE SET amount = amount - NEW.amount;
            INSERT INTO balance VALUES(NEW.target, NEW.part, NEW.amount)
                ON CONFLICT DO UPDATE SET amount = amount + NEW.amount;
        END;
CREATE INDEX movement_part ON movement(part);
CREATE INDEX measure_build ON measure(build);
CREATE INDEX build_listed          -- all that a list shows, as the pieces themselves are long
        ON build(ended, begun, name, wearer, minutes, metal_g, cost, things);
CREATE INDEX build_note_build ON build_note(build);
COMMIT;

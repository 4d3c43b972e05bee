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
CREATE TABLE balance(
        account INTEGER NOT NULL REFERENCES account(id),
        part TEXT NOT NULL,
        amount INTEGER NOT NULL,
        PRIMARY KEY(account, part)
    ) WITHOUT ROWID;
INSERT INTO "balance" VALUES(1,'ring-4',-200);
INSERT INTO "balance" VALUES(2,'ring-4',200);
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
CREATE TABLE kept(                 -- records, as piece files write them
        sort TEXT NOT NULL CHECK(sort IN ('part', 'unit', 'wearer', 'form')),
        id TEXT NOT NULL,
        data TEXT NOT NULL,
        PRIMARY KEY(sort, id)
    );
INSERT INTO "kept" VALUES('part','ring-4','{"kind": "ring", "id": "ring-4", "name": "Jump ring 4 mm", "inner_mm": 4.0, "wire_mm": 0.8}');
INSERT INTO "kept" VALUES('wearer','Prompter','{"role": "Prompter", "neck_mm": 372.0}');
CREATE TABLE movement(
        event INTEGER NOT NULL REFERENCES event(id),
        part TEXT NOT NULL,
        amount INTEGER NOT NULL CHECK(amount > 0),
        source INTEGER NOT NULL REFERENCES account(id),
        target INTEGER NOT NULL REFERENCES account(id),
        CHECK(source <> target)
    );
INSERT INTO "movement" VALUES(1,'ring-4',200,1,2);
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
COMMIT;
PRAGMA application_id = 1296123724;
PRAGMA user_version = 2;

"""What a workshop file holds, as numbered migrations. A migration that is out is never changed."""

APPLICATION = 0x4D41474C  # “MAGL”, which tells a workshop from any other SQLite file

MIGRATIONS: tuple[str, ...] = (
    """
    CREATE TABLE kept(                 -- records, as piece files write them
        sort TEXT NOT NULL CHECK(sort IN ('part', 'unit', 'wearer', 'form')),
        id TEXT NOT NULL,
        data TEXT NOT NULL,
        PRIMARY KEY(sort, id)
    );
    CREATE TABLE setting(              -- rules, minutes, rates, and the workshop's own name
        sort TEXT NOT NULL CHECK(sort IN ('rule', 'minutes', 'rate', 'about')),
        name TEXT NOT NULL,
        value TEXT NOT NULL,
        PRIMARY KEY(sort, name)
    ) WITHOUT ROWID;
    CREATE TABLE account(
        id INTEGER PRIMARY KEY,
        sort TEXT NOT NULL CHECK(sort IN ('outside', 'bench', 'lot', 'plan', 'build', 'lost')),
        part TEXT NOT NULL DEFAULT '',
        name TEXT NOT NULL DEFAULT '',
        first_phase INTEGER NOT NULL DEFAULT 0,
        UNIQUE(sort, part, name)
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
    CREATE TABLE movement(
        event INTEGER NOT NULL REFERENCES event(id),
        part TEXT NOT NULL,
        amount INTEGER NOT NULL CHECK(amount > 0),
        source INTEGER NOT NULL REFERENCES account(id),
        target INTEGER NOT NULL REFERENCES account(id),
        CHECK(source <> target)
    );
    CREATE INDEX movement_event ON movement(event);
    CREATE TABLE balance(
        account INTEGER NOT NULL REFERENCES account(id),
        part TEXT NOT NULL,
        amount INTEGER NOT NULL,
        PRIMARY KEY(account, part)
    ) WITHOUT ROWID;
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
    """,
    """
    CREATE TABLE piece(                -- saved pieces, and what each is made of
        place TEXT PRIMARY KEY,        -- its file, or the name of one of the demo
        name TEXT NOT NULL,
        things TEXT NOT NULL           -- ids of its parts and units
    ) WITHOUT ROWID;
    CREATE INDEX movement_part ON movement(part);
    """,
    """
    CREATE TABLE build(                -- pieces in the making
        id INTEGER PRIMARY KEY,
        name TEXT NOT NULL,
        begun TEXT NOT NULL,
        ended TEXT NOT NULL DEFAULT '',
        given TEXT NOT NULL,           -- the piece as it was begun, as piece files write it
        piece TEXT NOT NULL,           -- as it is now
        working TEXT NOT NULL          -- school and habits
    );
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
    CREATE TABLE build_note(
        id INTEGER PRIMARY KEY,
        build INTEGER NOT NULL REFERENCES build(id),
        at TEXT NOT NULL,
        step TEXT NOT NULL,
        sort TEXT NOT NULL CHECK(sort IN ('note', 'changed', 'measured', 'spoilt', 'undone')),
        words TEXT NOT NULL,
        value REAL
    );
    CREATE TABLE cut_for(              -- which cut of the stock was for which mark of a build
        event INTEGER PRIMARY KEY REFERENCES event(id),
        build INTEGER NOT NULL REFERENCES build(id),
        place TEXT NOT NULL
    );
    """,
    """
    ALTER TABLE build ADD COLUMN wearer TEXT NOT NULL DEFAULT '';
    ALTER TABLE build ADD COLUMN things TEXT NOT NULL DEFAULT '';   -- names of its parts
    ALTER TABLE build ADD COLUMN minutes REAL NOT NULL DEFAULT 0;
    ALTER TABLE build ADD COLUMN metal_g REAL NOT NULL DEFAULT 0;
    ALTER TABLE build ADD COLUMN cost TEXT NOT NULL DEFAULT '';
    UPDATE build SET wearer = coalesce(json_extract(piece, '$.wearer.role'), ''),
        things = coalesce((SELECT group_concat(json_extract(value, '$.name'), ' · ')
                           FROM json_each(build.piece, '$.parts')), ''),
        minutes = (SELECT coalesce(sum(seconds), 0) / 60 FROM mark WHERE mark.build = build.id);
    CREATE TABLE measure(              -- measured against planned, mm
        id INTEGER PRIMARY KEY,
        build INTEGER NOT NULL REFERENCES build(id),
        data TEXT NOT NULL
    );
    CREATE INDEX measure_build ON measure(build);
    CREATE TABLE spent(                -- minutes of a build by kinds of step
        build INTEGER NOT NULL REFERENCES build(id),
        kind TEXT NOT NULL,
        number REAL NOT NULL,
        minutes REAL NOT NULL,
        PRIMARY KEY(build, kind)
    ) WITHOUT ROWID;
    CREATE TABLE photo(
        id INTEGER PRIMARY KEY,
        build INTEGER NOT NULL REFERENCES build(id),
        file TEXT NOT NULL,
        words TEXT NOT NULL DEFAULT ''
    );
    CREATE TABLE correction(           -- what was taken over of all this
        what TEXT NOT NULL,
        about TEXT NOT NULL,
        value REAL NOT NULL,
        at TEXT NOT NULL,
        PRIMARY KEY(what, about)
    ) WITHOUT ROWID;
    CREATE INDEX build_listed          -- all that a list shows, as the pieces themselves are long
        ON build(ended, begun, name, wearer, minutes, metal_g, cost, things);
    CREATE INDEX build_note_build ON build_note(build);
    """,
    """
    ALTER TABLE build ADD COLUMN piece_id TEXT NOT NULL DEFAULT '';  -- which piece is made
    ALTER TABLE build ADD COLUMN day TEXT NOT NULL DEFAULT '';       -- for which day, if for one
    ALTER TABLE build ADD COLUMN theirs INTEGER NOT NULL DEFAULT 0;  -- somebody else made it
    ALTER TABLE mark ADD COLUMN took TEXT NOT NULL DEFAULT '';       -- where what it took stands
    ALTER TABLE account ADD COLUMN day TEXT NOT NULL DEFAULT '';     -- a plan's: for which day
    ALTER TABLE account ADD COLUMN build INTEGER NOT NULL DEFAULT 0; -- a plan's, a build's: which
    ALTER TABLE account ADD COLUMN lot TEXT NOT NULL DEFAULT '';     -- a plan's: of which length
    ALTER TABLE account ADD COLUMN measured_um INTEGER NOT NULL DEFAULT 0; -- of chain: as entered
    ALTER TABLE account ADD COLUMN links_off INTEGER NOT NULL DEFAULT 0;   -- what was cut of that
    ALTER TABLE event ADD COLUMN measured_um INTEGER NOT NULL DEFAULT 0;
    CREATE TABLE day(                  -- what is cut and made together
        id TEXT PRIMARY KEY,
        at TEXT NOT NULL,              -- when it was laid out
        ended TEXT NOT NULL DEFAULT '' -- when it was made, or given up
    ) WITHOUT ROWID;
    CREATE TABLE day_piece(
        day TEXT NOT NULL REFERENCES day(id),
        number INTEGER NOT NULL,       -- in the order in which they were added
        piece_id TEXT NOT NULL,
        copies INTEGER NOT NULL,
        piece TEXT NOT NULL,           -- as piece files write it
        PRIMARY KEY(day, number)
    );
    ALTER TABLE piece ADD COLUMN piece_id TEXT NOT NULL DEFAULT '';
    CREATE TABLE printed(              -- what is on paper of a piece, the last of each sheet
        piece_id TEXT NOT NULL,
        sheet TEXT NOT NULL,
        at TEXT NOT NULL,
        state TEXT NOT NULL,           -- a fingerprint of the piece as it was
        price TEXT NOT NULL DEFAULT '',
        PRIMARY KEY(piece_id, sheet)
    ) WITHOUT ROWID;
    CREATE TABLE set_aside(            -- cells that were not what their column is, to be looked at
        at TEXT NOT NULL,
        relation TEXT NOT NULL,
        number INTEGER NOT NULL,       -- of the row
        field TEXT NOT NULL,
        value TEXT NOT NULL
    );
    CREATE INDEX build_day ON build(day);
    CREATE INDEX build_piece ON build(piece_id);
    UPDATE account SET build = CAST(substr(name, 7) AS INTEGER)
        WHERE sort IN ('plan', 'build') AND name GLOB 'build [0-9]*';
    UPDATE account SET
        day = CASE instr(name, ' | ') WHEN 0 THEN name
                   ELSE substr(name, 1, instr(name, ' | ') - 1) END,
        lot = CASE instr(name, ' | ') WHEN 0 THEN '' ELSE substr(name, instr(name, ' | ') + 3) END
        WHERE sort = 'plan' AND name GLOB 'day: *';
    INSERT INTO day(id, at) SELECT DISTINCT a.day, '' FROM account a
        JOIN balance b ON b.account = a.id WHERE a.day <> '' AND b.amount > 0;
    """,
)
VERSION = len(MIGRATIONS)

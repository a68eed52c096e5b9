"""What must be so: rows that the decision speaks of, limits lowered, the order of waitlists and who
is looked at in them, mail that is tried again, and versions of what stands in a cart."""

KEEP_ORDER = """
-- Whoever waits keeps their position, also where an office has moved a place: the ids of a waitlist are
-- given out anew in the order that it had.
UPDATE places w SET ranked = standing.rank FROM (
    SELECT had.id, given.id AS rank
    FROM (SELECT id, pool_id,
                 row_number() OVER (PARTITION BY pool_id ORDER BY coalesce(ranked_at, joined_at), id) AS at
          FROM places WHERE state = 'waiting') had
    JOIN (SELECT id, pool_id, row_number() OVER (PARTITION BY pool_id ORDER BY id) AS at
          FROM places WHERE state = 'waiting') given USING (pool_id, at)
) standing WHERE w.id = standing.id AND standing.rank <> w.id;
"""

STATEMENTS = """
-- What a statement has touched, beside what the decision says it should. A difference is an error,
-- and undoes everything.
CREATE FUNCTION expect_rows(touched bigint, expected bigint, what text) RETURNS void
LANGUAGE plpgsql AS $$
BEGIN
    IF touched <> expected THEN
        RAISE EXCEPTION '%%: %% rows where the decision speaks of %%', what, touched, expected
            USING ERRCODE = 'integrity_constraint_violation';
    END IF;
END $$;

-- A lowered limit throws nobody out: those above it count as seated beyond it.
CREATE FUNCTION keep_beyond() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
    NEW.beyond := greatest(0, NEW.taken + NEW.offered - NEW.seat_limit);
    RETURN NEW;
END $$;
CREATE TRIGGER keep_beyond BEFORE UPDATE OF seat_limit ON seat_pools
    FOR EACH ROW WHEN (NEW.seat_limit <> OLD.seat_limit) EXECUTE FUNCTION keep_beyond();

-- Waitlists are in order of entry: the id only grows, whatever a clock says. Only where an office has
-- moved a place does it stand elsewhere: `ranked` lies between the ids of its neighbours.
ALTER TABLE places ADD COLUMN ranked numeric;
""" + KEEP_ORDER + """
ALTER TABLE places DROP COLUMN ranked_at;
-- Why a place has been passed over and is not looked at until something changes: only seats kept for
-- others are left ("kept"), or the decision stops its student ("stopped").
ALTER TABLE places ADD COLUMN blocked text CHECK (blocked IN ('kept', 'stopped'));
-- Written before its receipt: the seat that was held is freed first, then taken.
ALTER TABLE places ADD COLUMN receipt_id bigint REFERENCES receipts DEFERRABLE INITIALLY DEFERRED;
CREATE INDEX places_in_line ON places (pool_id, (coalesce(ranked, id)), id)
    WHERE state = 'waiting' AND blocked IS NULL;
CREATE INDEX places_blocked ON places (student_term_id) WHERE state = 'waiting' AND blocked IS NOT NULL;
CREATE INDEX places_of_receipt ON places (receipt_id) WHERE receipt_id IS NOT NULL;
ALTER TABLE place_events DROP CONSTRAINT place_events_what_check;
ALTER TABLE place_events ADD CHECK (what IN
    ('joined', 'offered', 'accepted', 'registered', 'declined', 'lapsed', 'passed over', 'moved',
     'left', 'closed', 'loosened'));
-- Who did it, where that was not the student.
ALTER TABLE place_events ADD COLUMN by_id integer REFERENCES persons;
-- The reserved part that an offered seat comes from.
ALTER TABLE places ADD COLUMN part_id integer REFERENCES seat_reservations (id);
CREATE INDEX places_of_part ON places (part_id) WHERE part_id IS NOT NULL AND state = 'offered';
ALTER TABLE seat_reservations ADD COLUMN released boolean NOT NULL DEFAULT false;

-- Something has changed for these students: their places are looked at again. A note that is there
-- already is written all the same: whoever is about to take it away then waits, and looks once more.
CREATE FUNCTION look_again_at(who integer[]) RETURNS void LANGUAGE plpgsql AS $$
DECLARE pools integer[];
BEGIN
    -- Whoever is just deciding on them has these rows locked; what that leads to is seen below.
    PERFORM 1 FROM student_terms WHERE id = ANY(who) ORDER BY id FOR NO KEY UPDATE;
    WITH again AS (
        UPDATE places SET blocked = NULL
        WHERE student_term_id = ANY(who) AND state = 'waiting' AND blocked IS NOT NULL
        RETURNING pool_id
    ) SELECT array_agg(DISTINCT pool_id) INTO pools FROM again;
    IF pools IS NULL THEN RETURN; END IF;
    INSERT INTO freed_pools (pool_id)
    SELECT id FROM seat_pools WHERE id = ANY(pools) AND taken + offered < seat_limit
    ON CONFLICT (pool_id) DO UPDATE SET at = freed_pools.at;
    -- Also where no seat is free: they may lie on a ring.
    PERFORM pg_notify('gremba_freed', '');
END $$;
CREATE FUNCTION students_changed() RETURNS trigger LANGUAGE plpgsql AS $$
DECLARE who integer[];
BEGIN
    IF TG_ARGV[0] = 'student_term_id' THEN
        SELECT array_agg(DISTINCT c.student_term_id) INTO who FROM changed c
        WHERE EXISTS (SELECT 1 FROM places w WHERE w.student_term_id = c.student_term_id
                      AND w.state = 'waiting');
    ELSIF TG_ARGV[0] = 'id' THEN
        SELECT array_agg(DISTINCT st.id) INTO who FROM changed c
        JOIN student_terms st ON st.student_id = c.id
        WHERE EXISTS (SELECT 1 FROM places w WHERE w.student_term_id = st.id AND w.state = 'waiting');
    ELSE
        SELECT array_agg(DISTINCT st.id) INTO who FROM changed c
        JOIN student_terms st ON st.student_id = c.student_id
        WHERE EXISTS (SELECT 1 FROM places w WHERE w.student_term_id = st.id AND w.state = 'waiting');
    END IF;
    IF who IS NOT NULL THEN PERFORM look_again_at(who); END IF;
    RETURN NULL;
END $$;
CREATE TRIGGER look_again_new AFTER INSERT ON registrations REFERENCING NEW TABLE AS changed
    FOR EACH STATEMENT EXECUTE FUNCTION students_changed('student_term_id');
CREATE TRIGGER look_again AFTER UPDATE ON registrations REFERENCING NEW TABLE AS changed
    FOR EACH STATEMENT EXECUTE FUNCTION students_changed('student_term_id');
CREATE TRIGGER look_again AFTER UPDATE ON clearance_items REFERENCING NEW TABLE AS changed
    FOR EACH STATEMENT EXECUTE FUNCTION students_changed('student_term_id');
CREATE TRIGGER look_again AFTER UPDATE ON holds REFERENCING NEW TABLE AS changed
    FOR EACH STATEMENT EXECUTE FUNCTION students_changed('student_id');
CREATE TRIGGER look_again_new AFTER INSERT ON record_entries REFERENCING NEW TABLE AS changed
    FOR EACH STATEMENT EXECUTE FUNCTION students_changed('student_id');
CREATE TRIGGER look_again AFTER UPDATE ON record_entries REFERENCING NEW TABLE AS changed
    FOR EACH STATEMENT EXECUTE FUNCTION students_changed('student_id');
CREATE TRIGGER look_again_new AFTER INSERT ON placement_scores REFERENCING NEW TABLE AS changed
    FOR EACH STATEMENT EXECUTE FUNCTION students_changed('student_id');
CREATE TRIGGER look_again AFTER UPDATE ON students REFERENCING NEW TABLE AS changed
    FOR EACH STATEMENT EXECUTE FUNCTION students_changed('id');
CREATE FUNCTION standing_changed() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
    PERFORM look_again_at(ARRAY[NEW.id]);
    RETURN NULL;
END $$;
CREATE TRIGGER look_again AFTER UPDATE OF standing, credit_limit ON student_terms FOR EACH ROW
    WHEN ((NEW.standing, NEW.credit_limit) IS DISTINCT FROM (OLD.standing, OLD.credit_limit))
    EXECUTE FUNCTION standing_changed();
CREATE FUNCTION catalogue_changed() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
    PERFORM look_again_at(array_agg(DISTINCT student_term_id)) FROM places
    WHERE term_id = NEW.id AND state = 'waiting' AND blocked IS NOT NULL
    HAVING count(*) > 0;
    RETURN NULL;
END $$;
CREATE TRIGGER look_again AFTER UPDATE ON terms FOR EACH ROW EXECUTE FUNCTION catalogue_changed();

-- A seat has come: those for whom only kept seats were left are looked at again, and so is who waits
-- for a section that this one goes with.
CREATE OR REPLACE FUNCTION note_freed_pools() RETURNS trigger LANGUAGE plpgsql AS $$
DECLARE free integer[];
BEGIN
    SELECT array_agg(c.id) INTO free FROM changed c JOIN old_rows o ON o.id = c.id
    WHERE c.taken + c.offered < c.seat_limit
        AND c.seat_limit - c.taken - c.offered > o.seat_limit - o.taken - o.offered;
    IF free IS NULL THEN RETURN NULL; END IF;
    IF EXISTS (SELECT 1 FROM places WHERE state = 'waiting' AND blocked IS NOT NULL) THEN
        UPDATE places SET blocked = NULL
        WHERE pool_id = ANY(free) AND state = 'waiting' AND blocked = 'kept';
        WITH again AS (
            UPDATE places w SET blocked = NULL
            FROM companions c JOIN sections s ON s.id = c.with_section_id
            WHERE c.section_id = w.section_id AND s.pool_id = ANY(free)
                AND w.state = 'waiting' AND w.blocked IS NOT NULL
            RETURNING w.pool_id
        )
        INSERT INTO freed_pools (pool_id)
        SELECT DISTINCT p.id FROM again a JOIN seat_pools p ON p.id = a.pool_id
        WHERE p.taken + p.offered < p.seat_limit ON CONFLICT (pool_id) DO UPDATE SET at = freed_pools.at;
    END IF;
    INSERT INTO freed_pools (pool_id)
    SELECT f.id FROM unnest(free) AS f (id)
    WHERE EXISTS (SELECT 1 FROM places w WHERE w.pool_id = f.id AND w.state = 'waiting')
    ON CONFLICT (pool_id) DO UPDATE SET at = freed_pools.at;
    IF FOUND THEN PERFORM pg_notify('gremba_freed', ''); END IF;
    RETURN NULL;
END $$;
DROP TRIGGER note_freed ON seat_pools;
CREATE TRIGGER note_freed AFTER UPDATE ON seat_pools
    REFERENCING OLD TABLE AS old_rows NEW TABLE AS changed
    FOR EACH STATEMENT EXECUTE FUNCTION note_freed_pools();

-- Mail is tried again with growing pauses; what will never arrive is kept with the reason.
ALTER TABLE messages ADD COLUMN mail_after timestamptz;
ALTER TABLE messages ADD COLUMN mail_refused_at timestamptz;
ALTER TABLE messages ADD COLUMN mail_problem text NOT NULL DEFAULT '';
DROP INDEX messages_to_mail;
CREATE INDEX messages_to_mail ON messages (mail_after NULLS FIRST, id)
    WHERE mailed_at IS NULL AND mail_refused_at IS NULL;
CREATE INDEX messages_refused ON messages (mail_refused_at) WHERE mail_refused_at IS NOT NULL;

-- What stands in a cart, by how often it has been changed; and what becomes of a place that would
-- have given up the section dropped.
ALTER TABLE cart_changes ADD COLUMN version integer NOT NULL DEFAULT 1;
ALTER TABLE cart_changes ADD COLUMN leaves_places boolean NOT NULL DEFAULT false;
CREATE FUNCTION raise_version() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
    NEW.version := OLD.version + 1;
    RETURN NEW;
END $$;
CREATE TRIGGER raise_version BEFORE UPDATE ON cart_changes
    FOR EACH ROW WHEN ((OLD.kind, OLD.section_id, OLD.gives_up_section_id, OLD.grading, OLD.credits,
                        OLD.consent, OLD.or_else, OLD.wait_if_full, OLD.leaves_places)
        IS DISTINCT FROM (NEW.kind, NEW.section_id, NEW.gives_up_section_id, NEW.grading,
                          NEW.credits, NEW.consent, NEW.or_else, NEW.wait_if_full,
                          NEW.leaves_places))
    EXECUTE FUNCTION raise_version();
"""


def up(migrator, database):
    database.execute_sql(STATEMENTS)

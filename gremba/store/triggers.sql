-- What the database sees to by itself, whatever program does the writing. In force in every database
-- since its last migration (store/installation.py); all of it can be run again at any time.

-- ## Seats

-- A seat registered counts as taken. A seat given by consent raises what the pool may hold; seats given
-- back lower it again. Once a statement, however many rows: with the pool's check (never_oversold) this
-- makes it impossible to write a seat that is not there.
CREATE OR REPLACE FUNCTION count_taken() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
    IF TG_OP = 'INSERT' THEN
        UPDATE seat_pools p SET taken = p.taken + n.many,
            beyond = least(p.beyond + n.consented,
                           greatest(0, p.taken + n.many + p.offered - p.seat_limit))
        FROM (SELECT pool_id, count(*) AS many, count(*) FILTER (WHERE beyond) AS consented
              FROM new_rows WHERE state = 'registered' GROUP BY pool_id) n
        WHERE p.id = n.pool_id;
    ELSE
        UPDATE seat_pools p SET taken = p.taken + n.many,
            beyond = least(p.beyond, greatest(0, p.taken + n.many + p.offered - p.seat_limit))
        FROM (SELECT pool_id, sum(change) AS many FROM (
                  SELECT pool_id, 1 AS change FROM new_rows WHERE state = 'registered'
                  UNION ALL
                  SELECT pool_id, -1 FROM old_rows WHERE state = 'registered') c
              GROUP BY pool_id HAVING sum(change) <> 0) n
        WHERE p.id = n.pool_id;
    END IF;
    RETURN NULL;
END $$;
CREATE OR REPLACE TRIGGER count_taken_new AFTER INSERT ON registrations
    REFERENCING NEW TABLE AS new_rows FOR EACH STATEMENT EXECUTE FUNCTION count_taken();
CREATE OR REPLACE TRIGGER count_taken_changed AFTER UPDATE ON registrations
    REFERENCING OLD TABLE AS old_rows NEW TABLE AS new_rows
    FOR EACH STATEMENT EXECUTE FUNCTION count_taken();

-- The same for seats that are held for an open offer.
CREATE OR REPLACE FUNCTION count_offered() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
    IF TG_OP = 'INSERT' THEN
        UPDATE seat_pools p SET offered = p.offered + n.many
        FROM (SELECT pool_id, count(*) AS many FROM new_rows
              WHERE state = 'offered' GROUP BY pool_id) n
        WHERE p.id = n.pool_id;
    ELSE
        UPDATE seat_pools p SET offered = p.offered + n.many
        FROM (SELECT pool_id, sum(change) AS many FROM (
                  SELECT pool_id, 1 AS change FROM new_rows WHERE state = 'offered'
                  UNION ALL
                  SELECT pool_id, -1 FROM old_rows WHERE state = 'offered') c
              GROUP BY pool_id HAVING sum(change) <> 0) n
        WHERE p.id = n.pool_id;
    END IF;
    RETURN NULL;
END $$;
CREATE OR REPLACE TRIGGER count_offered_new AFTER INSERT ON waitlist_entries
    REFERENCING NEW TABLE AS new_rows FOR EACH STATEMENT EXECUTE FUNCTION count_offered();
CREATE OR REPLACE TRIGGER count_offered_changed AFTER UPDATE ON waitlist_entries
    REFERENCING OLD TABLE AS old_rows NEW TABLE AS new_rows
    FOR EACH STATEMENT EXECUTE FUNCTION count_offered();

-- A lowered limit throws nobody out: those above it count as seated beyond it.
CREATE OR REPLACE FUNCTION keep_beyond() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
    NEW.beyond := greatest(0, NEW.taken + NEW.offered - NEW.seat_limit);
    RETURN NEW;
END $$;
CREATE OR REPLACE TRIGGER keep_beyond BEFORE UPDATE OF seat_limit ON seat_pools
    FOR EACH ROW WHEN (NEW.seat_limit <> OLD.seat_limit) EXECUTE FUNCTION keep_beyond();

-- ## What is never altered

-- History is only added to.
CREATE OR REPLACE FUNCTION refuse_change() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
    RAISE EXCEPTION '% of % is not allowed: the history is kept', TG_OP, TG_TABLE_NAME;
END $$;
CREATE OR REPLACE TRIGGER keep_confirmations BEFORE UPDATE OR DELETE ON confirmations
    FOR EACH STATEMENT EXECUTE FUNCTION refuse_change();
CREATE OR REPLACE TRIGGER keep_confirmations_whole BEFORE TRUNCATE ON confirmations
    FOR EACH STATEMENT EXECUTE FUNCTION refuse_change();
CREATE OR REPLACE TRIGGER keep_events BEFORE UPDATE OR DELETE ON registration_events
    FOR EACH STATEMENT EXECUTE FUNCTION refuse_change();
-- The ledger: a mistake is undone by an entry against it, of the same student and sum.
CREATE OR REPLACE TRIGGER keep_ledger BEFORE UPDATE OR DELETE ON ledger_entries
    FOR EACH STATEMENT EXECUTE FUNCTION refuse_change();
CREATE OR REPLACE FUNCTION check_counter_entry() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
    PERFORM 1 FROM ledger_entries e WHERE e.id = NEW.counters_id AND e.student_term_id = NEW.student_term_id
        AND e.amount_cents = -NEW.amount_cents AND e.account = NEW.account AND e.counters_id IS NULL;
    IF NOT FOUND THEN
        RAISE EXCEPTION 'a counter-entry fits no entry' USING ERRCODE = 'integrity_constraint_violation';
    END IF;
    RETURN NEW;
END $$;
CREATE OR REPLACE TRIGGER check_counter_entry BEFORE INSERT ON ledger_entries FOR EACH ROW
    WHEN (NEW.counters_id IS NOT NULL) EXECUTE FUNCTION check_counter_entry();
CREATE OR REPLACE TRIGGER keep_nonpayment_results BEFORE UPDATE OR DELETE ON nonpayment_results
    FOR EACH STATEMENT EXECUTE FUNCTION refuse_change();
CREATE OR REPLACE TRIGGER keep_registrations BEFORE DELETE ON registrations
    FOR EACH STATEMENT EXECUTE FUNCTION refuse_change();
CREATE OR REPLACE TRIGGER keep_waitlist_entries BEFORE DELETE ON waitlist_entries
    FOR EACH STATEMENT EXECUTE FUNCTION refuse_change();
CREATE OR REPLACE TRIGGER keep_waitlist_events BEFORE UPDATE OR DELETE ON waitlist_events
    FOR EACH STATEMENT EXECUTE FUNCTION refuse_change();
CREATE OR REPLACE TRIGGER keep_office_events BEFORE UPDATE OR DELETE ON office_events
    FOR EACH STATEMENT EXECUTE FUNCTION refuse_change();
CREATE OR REPLACE TRIGGER keep_permission_code_uses BEFORE UPDATE OR DELETE ON permission_code_uses
    FOR EACH STATEMENT EXECUTE FUNCTION refuse_change();
CREATE OR REPLACE TRIGGER keep_permission_requests BEFORE DELETE OR TRUNCATE ON permission_requests
    FOR EACH STATEMENT EXECUTE FUNCTION refuse_change();
CREATE OR REPLACE TRIGGER keep_permission_events BEFORE UPDATE OR DELETE ON permission_events
    FOR EACH STATEMENT EXECUTE FUNCTION refuse_change();
CREATE OR REPLACE TRIGGER keep_permission_files BEFORE UPDATE OR DELETE ON permission_files
    FOR EACH STATEMENT EXECUTE FUNCTION refuse_change();
CREATE OR REPLACE TRIGGER keep_sections BEFORE DELETE OR TRUNCATE ON sections
    FOR EACH STATEMENT EXECUTE FUNCTION refuse_change();
CREATE OR REPLACE TRIGGER keep_student_terms BEFORE DELETE OR TRUNCATE ON student_terms
    FOR EACH STATEMENT EXECUTE FUNCTION refuse_change();

-- ## The record

-- What was done is written, verified and aged out by these functions of the owner alone. Digests are made
-- with a key that the role that serves cannot read: HMAC-SHA-256 as RFC 2104 has it, of the digest before
-- and of all that an entry says.
CREATE OR REPLACE FUNCTION audit_hmac(message bytea) RETURNS bytea LANGUAGE plpgsql STABLE
    SECURITY DEFINER SET search_path = pg_catalog, public AS $$
DECLARE
    padded bytea := (SELECT key FROM public.audit_key) || decode(repeat('00', 32), 'hex');
    inner_pad bytea := padded;
    outer_pad bytea := padded;
BEGIN
    FOR n IN 0..63 LOOP
        inner_pad := set_byte(inner_pad, n, get_byte(padded, n) # 54);
        outer_pad := set_byte(outer_pad, n, get_byte(padded, n) # 92);
    END LOOP;
    RETURN sha256(outer_pad || sha256(inner_pad || message));
END $$;
CREATE OR REPLACE FUNCTION audit_digest(entry public.audit_entries) RETURNS bytea LANGUAGE sql STABLE
    SECURITY DEFINER SET search_path = pg_catalog, public AS $$
    SELECT audit_hmac(entry.digest_before || convert_to(jsonb_build_array(
        entry.id, to_char(entry.at AT TIME ZONE 'UTC', 'YYYY-MM-DD"T"HH24:MI:SS.US'), entry.kind,
        entry.person_id, entry.account, entry.student_id, entry.address, entry.request_id, entry.detail
    )::text, 'UTF8'))
$$;
CREATE OR REPLACE FUNCTION audit_seal(head public.audit_head) RETURNS bytea LANGUAGE sql STABLE
    SECURITY DEFINER SET search_path = pg_catalog, public AS $$
    SELECT audit_hmac(convert_to('head ' || head.last_id, 'UTF8') || head.last_digest || head.aged_out_digest)
$$;

-- Writes entries behind those there are; a student who is nobody is left out.
CREATE OR REPLACE FUNCTION write_audit(entries jsonb) RETURNS void LANGUAGE plpgsql
    SECURITY DEFINER SET search_path = pg_catalog, public AS $$
DECLARE
    head public.audit_head;
    entry public.audit_entries;
    told jsonb;
BEGIN
    SELECT * INTO STRICT head FROM audit_head FOR UPDATE;
    FOR told IN SELECT * FROM jsonb_array_elements(entries) LOOP
        entry.id := nextval(pg_get_serial_sequence('public.audit_entries', 'id'));
        entry.at := (told ->> 'at')::timestamptz;
        entry.kind := told ->> 'kind';
        entry.person_id := (told ->> 'person')::integer;
        entry.account := told ->> 'account';
        entry.student_id := (SELECT id FROM students WHERE id = (told ->> 'student')::integer);
        entry.address := told ->> 'address';
        entry.request_id := told ->> 'request_id';
        entry.detail := told ->> 'detail';
        entry.is_keyed := true;
        entry.digest_before := head.last_digest;
        entry.digest := audit_digest(entry);
        INSERT INTO audit_entries SELECT entry.*;
        head.last_id := entry.id;
        head.last_digest := entry.digest;
    END LOOP;
    UPDATE audit_head SET last_id = head.last_id, last_digest = head.last_digest, seal = audit_seal(head);
END $$;

-- Whether an entry says what it said when it was written, and the end and the beginning are those noted.
CREATE OR REPLACE FUNCTION audit_is_right(entry public.audit_entries) RETURNS boolean LANGUAGE sql STABLE
    SECURITY DEFINER SET search_path = pg_catalog, public AS $$
    SELECT entry.digest = audit_digest(entry)
$$;
CREATE OR REPLACE FUNCTION audit_head_is_right() RETURNS boolean LANGUAGE sql STABLE
    SECURITY DEFINER SET search_path = pg_catalog, public AS $$
    SELECT head.seal IS NULL OR head.seal = audit_seal(head) FROM audit_head head
$$;

-- Takes away the beginning of the record, which is older than it is kept; gives how many entries went.
CREATE OR REPLACE FUNCTION age_out_audit(before timestamptz, most integer) RETURNS integer LANGUAGE plpgsql
    SECURITY DEFINER SET search_path = pg_catalog, public AS $$
DECLARE
    head public.audit_head;
    gone integer;
    last bytea;
BEGIN
    SELECT * INTO STRICT head FROM audit_head FOR UPDATE;
    WITH old AS (
        SELECT id FROM audit_entries
        WHERE id < (SELECT coalesce(min(id), 9223372036854775807) FROM audit_entries WHERE at >= before)
        ORDER BY id LIMIT most
    ), taken AS (
        DELETE FROM audit_entries WHERE id IN (SELECT id FROM old) RETURNING id, digest
    )
    SELECT count(*), (array_agg(digest ORDER BY id DESC) FILTER (WHERE digest IS NOT NULL))[1]
    INTO gone, last FROM taken;
    IF last IS NOT NULL THEN
        head.aged_out_digest := last;
        UPDATE audit_head SET aged_out_digest = last, seal = audit_seal(head);
    END IF;
    RETURN gone;
END $$;
REVOKE EXECUTE ON FUNCTION audit_hmac(bytea), audit_digest(public.audit_entries),
    audit_seal(public.audit_head), age_out_audit(timestamptz, integer) FROM PUBLIC;

-- Entries are taken away when they are old, but never changed.
CREATE OR REPLACE FUNCTION refuse_update() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
    RAISE EXCEPTION '% is only added to', TG_TABLE_NAME USING ERRCODE = 'integrity_constraint_violation';
END $$;
CREATE OR REPLACE TRIGGER keep_audit_entries BEFORE UPDATE ON audit_entries
    FOR EACH STATEMENT EXECUTE FUNCTION refuse_update();

-- ## What registrations refer to

-- A registration's student, section and confirmation are looked up once a statement, not by a foreign key
-- each: those were more than half of the writing, since each lookup also locks and rewrites the row it
-- finds. In return what they refer to can be neither deleted (above) nor given another key (below).
CREATE OR REPLACE FUNCTION refuse_orphans() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
    IF EXISTS (
        SELECT 1 FROM new_rows n
        WHERE (SELECT (s.pool_id, s.term_id) FROM sections s WHERE s.id = n.section_id)
                  IS DISTINCT FROM (n.pool_id, n.term_id)
            OR (SELECT st.term_id FROM student_terms st WHERE st.id = n.student_term_id)
                  IS DISTINCT FROM n.term_id
            OR (SELECT r.id FROM confirmations r WHERE r.id = n.registered_by)
                  IS DISTINCT FROM n.registered_by
    ) THEN
        RAISE EXCEPTION 'a registration refers to something that is not there'
            USING ERRCODE = 'foreign_key_violation';
    END IF;
    RETURN NULL;
END $$;
CREATE OR REPLACE TRIGGER refuse_orphans_new AFTER INSERT ON registrations
    REFERENCING NEW TABLE AS new_rows FOR EACH STATEMENT EXECUTE FUNCTION refuse_orphans();
CREATE OR REPLACE FUNCTION refuse_other_keys() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
    RAISE EXCEPTION 'a key of % that registrations refer to cannot be changed', TG_TABLE_NAME
        USING ERRCODE = 'foreign_key_violation';
END $$;
CREATE OR REPLACE TRIGGER keep_registration_keys BEFORE UPDATE OF student_term_id, term_id, section_id,
    pool_id, registered_by ON registrations FOR EACH ROW
    WHEN ((OLD.student_term_id, OLD.term_id, OLD.section_id, OLD.pool_id, OLD.registered_by)
        IS DISTINCT FROM
        (NEW.student_term_id, NEW.term_id, NEW.section_id, NEW.pool_id, NEW.registered_by))
    EXECUTE FUNCTION refuse_other_keys();
CREATE OR REPLACE TRIGGER keep_section_keys BEFORE UPDATE OF id, pool_id, term_id ON sections FOR EACH ROW
    WHEN ((OLD.id, OLD.pool_id, OLD.term_id) IS DISTINCT FROM (NEW.id, NEW.pool_id, NEW.term_id))
    EXECUTE FUNCTION refuse_other_keys();
CREATE OR REPLACE TRIGGER keep_student_term_keys BEFORE UPDATE OF id, term_id ON student_terms FOR EACH ROW
    WHEN ((OLD.id, OLD.term_id) IS DISTINCT FROM (NEW.id, NEW.term_id))
    EXECUTE FUNCTION refuse_other_keys();

-- What a statement has touched, beside what the decision says it should. A difference is an error, and
-- undoes everything.
CREATE OR REPLACE FUNCTION expect_rows(touched bigint, expected bigint, what text) RETURNS void
LANGUAGE plpgsql AS $$
BEGIN
    IF touched <> expected THEN
        RAISE EXCEPTION '%: % rows where the decision speaks of %', what, touched, expected
            USING ERRCODE = 'integrity_constraint_violation';
    END IF;
END $$;

-- ## Waitlists: what makes that an entry is looked at again

-- Something has changed for these students: their waitlist entries are looked at again. A note that is there
-- already is written all the same: whoever is about to take it away then waits, and looks once more.
CREATE OR REPLACE FUNCTION look_again_at(who integer[]) RETURNS void LANGUAGE plpgsql AS $$
DECLARE pools integer[];
BEGIN
    -- Whoever is just deciding on them has these rows locked; what that leads to is seen below.
    PERFORM 1 FROM student_terms WHERE id = ANY(who) ORDER BY id FOR NO KEY UPDATE;
    WITH again AS (
        UPDATE waitlist_entries SET blocked = NULL
        WHERE student_term_id = ANY(who) AND state = 'waiting' AND blocked IS NOT NULL
        RETURNING pool_id
    ) SELECT array_agg(DISTINCT pool_id) INTO pools FROM again;
    IF pools IS NULL THEN RETURN; END IF;
    INSERT INTO freed_seats (pool_id)
    SELECT id FROM seat_pools WHERE id = ANY(pools) AND taken + offered < seat_limit
    ON CONFLICT (pool_id) DO UPDATE SET at = freed_seats.at;
    -- Also where no seat is free: they may lie on a trade.
    PERFORM pg_notify('gremba_freed_seats', '');
END $$;
CREATE OR REPLACE FUNCTION students_changed() RETURNS trigger LANGUAGE plpgsql AS $$
DECLARE who integer[];
BEGIN
    IF TG_ARGV[0] = 'student_term_id' THEN
        SELECT array_agg(DISTINCT c.student_term_id) INTO who FROM changed c
        WHERE EXISTS (SELECT 1 FROM waitlist_entries w WHERE w.student_term_id = c.student_term_id
                      AND w.state = 'waiting');
    ELSIF TG_ARGV[0] = 'id' THEN
        SELECT array_agg(DISTINCT st.id) INTO who FROM changed c
        JOIN student_terms st ON st.student_id = c.id
        WHERE EXISTS (SELECT 1 FROM waitlist_entries w WHERE w.student_term_id = st.id AND w.state = 'waiting');
    ELSE
        SELECT array_agg(DISTINCT st.id) INTO who FROM changed c
        JOIN student_terms st ON st.student_id = c.student_id
        WHERE EXISTS (SELECT 1 FROM waitlist_entries w WHERE w.student_term_id = st.id AND w.state = 'waiting');
    END IF;
    IF who IS NOT NULL THEN PERFORM look_again_at(who); END IF;
    RETURN NULL;
END $$;
CREATE OR REPLACE TRIGGER look_again_new AFTER INSERT ON registrations REFERENCING NEW TABLE AS changed
    FOR EACH STATEMENT EXECUTE FUNCTION students_changed('student_term_id');
CREATE OR REPLACE TRIGGER look_again AFTER UPDATE ON registrations REFERENCING NEW TABLE AS changed
    FOR EACH STATEMENT EXECUTE FUNCTION students_changed('student_term_id');
CREATE OR REPLACE TRIGGER look_again AFTER UPDATE ON clearance_items REFERENCING NEW TABLE AS changed
    FOR EACH STATEMENT EXECUTE FUNCTION students_changed('student_term_id');
CREATE OR REPLACE TRIGGER look_again AFTER UPDATE ON holds REFERENCING NEW TABLE AS changed
    FOR EACH STATEMENT EXECUTE FUNCTION students_changed('student_id');
CREATE OR REPLACE TRIGGER look_again_new AFTER INSERT ON record_entries REFERENCING NEW TABLE AS changed
    FOR EACH STATEMENT EXECUTE FUNCTION students_changed('student_id');
CREATE OR REPLACE TRIGGER look_again AFTER UPDATE ON record_entries REFERENCING NEW TABLE AS changed
    FOR EACH STATEMENT EXECUTE FUNCTION students_changed('student_id');
CREATE OR REPLACE TRIGGER look_again_new AFTER INSERT ON placement_scores REFERENCING NEW TABLE AS changed
    FOR EACH STATEMENT EXECUTE FUNCTION students_changed('student_id');
CREATE OR REPLACE TRIGGER look_again AFTER UPDATE ON students REFERENCING NEW TABLE AS changed
    FOR EACH STATEMENT EXECUTE FUNCTION students_changed('id');
CREATE OR REPLACE FUNCTION standing_changed() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
    PERFORM look_again_at(ARRAY[NEW.id]);
    RETURN NULL;
END $$;
CREATE OR REPLACE TRIGGER look_again AFTER UPDATE OF standing, credit_limit ON student_terms FOR EACH ROW
    WHEN ((NEW.standing, NEW.credit_limit) IS DISTINCT FROM (OLD.standing, OLD.credit_limit))
    EXECUTE FUNCTION standing_changed();
CREATE OR REPLACE FUNCTION catalogue_changed() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
    PERFORM look_again_at(array_agg(DISTINCT student_term_id)) FROM waitlist_entries
    WHERE term_id = NEW.id AND state = 'waiting' AND blocked IS NOT NULL
    HAVING count(*) > 0;
    RETURN NULL;
END $$;
CREATE OR REPLACE TRIGGER look_again AFTER UPDATE ON terms FOR EACH ROW EXECUTE FUNCTION catalogue_changed();

-- A seat has come: those for whom only kept seats were left are looked at again, and so is who waits
-- for a section that this one goes with.
CREATE OR REPLACE FUNCTION note_freed_seats() RETURNS trigger LANGUAGE plpgsql AS $$
DECLARE free integer[];
BEGIN
    SELECT array_agg(c.id) INTO free FROM changed c JOIN old_rows o ON o.id = c.id
    WHERE c.taken + c.offered < c.seat_limit
        AND c.seat_limit - c.taken - c.offered > o.seat_limit - o.taken - o.offered;
    IF free IS NULL THEN RETURN NULL; END IF;
    IF EXISTS (SELECT 1 FROM waitlist_entries WHERE state = 'waiting' AND blocked IS NOT NULL) THEN
        UPDATE waitlist_entries SET blocked = NULL
        WHERE pool_id = ANY(free) AND state = 'waiting' AND blocked = 'reserved';
        WITH again AS (
            UPDATE waitlist_entries w SET blocked = NULL
            FROM linked_sections c JOIN sections s ON s.id = c.with_section_id
            WHERE c.section_id = w.section_id AND s.pool_id = ANY(free)
                AND w.state = 'waiting' AND w.blocked IS NOT NULL
            RETURNING w.pool_id
        )
        INSERT INTO freed_seats (pool_id)
        SELECT DISTINCT p.id FROM again a JOIN seat_pools p ON p.id = a.pool_id
        WHERE p.taken + p.offered < p.seat_limit ON CONFLICT (pool_id) DO UPDATE SET at = freed_seats.at;
    END IF;
    INSERT INTO freed_seats (pool_id)
    SELECT f.id FROM unnest(free) AS f (id)
    WHERE EXISTS (SELECT 1 FROM waitlist_entries w WHERE w.pool_id = f.id AND w.state = 'waiting')
    ON CONFLICT (pool_id) DO UPDATE SET at = freed_seats.at;
    IF FOUND THEN PERFORM pg_notify('gremba_freed_seats', ''); END IF;
    RETURN NULL;
END $$;
CREATE OR REPLACE TRIGGER note_freed AFTER UPDATE ON seat_pools
    REFERENCING OLD TABLE AS old_rows NEW TABLE AS changed
    FOR EACH STATEMENT EXECUTE FUNCTION note_freed_seats();

-- Somebody has joined where a seat is free.
CREATE OR REPLACE FUNCTION note_joined_pools() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
    INSERT INTO freed_seats (pool_id)
    SELECT DISTINCT p.id FROM changed c JOIN seat_pools p ON p.id = c.pool_id
    WHERE c.state = 'waiting' AND p.taken + p.offered < p.seat_limit
    ON CONFLICT DO NOTHING;
    -- Who waits by swap may close a trade.
    IF FOUND OR EXISTS (SELECT 1 FROM changed WHERE in_exchange_id IS NOT NULL) THEN
        PERFORM pg_notify('gremba_freed_seats', '');
    END IF;
    RETURN NULL;
END $$;
CREATE OR REPLACE TRIGGER note_joined AFTER INSERT ON waitlist_entries REFERENCING NEW TABLE AS changed
    FOR EACH STATEMENT EXECUTE FUNCTION note_joined_pools();

-- ## Carts

-- A cart's version tells whether it still stands as it was seen.
CREATE OR REPLACE FUNCTION raise_version() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
    NEW.version := OLD.version + 1;
    RETURN NEW;
END $$;
CREATE OR REPLACE TRIGGER raise_version BEFORE UPDATE ON cart_changes
    FOR EACH ROW WHEN ((OLD.kind, OLD.section_id, OLD.in_exchange_id, OLD.grading, OLD.credits,
                        OLD.permission_code, OLD.alternatives, OLD.wait_if_full, OLD.leaves_waitlists)
        IS DISTINCT FROM (NEW.kind, NEW.section_id, NEW.in_exchange_id, NEW.grading,
                          NEW.credits, NEW.permission_code, NEW.alternatives, NEW.wait_if_full,
                          NEW.leaves_waitlists))
    EXECUTE FUNCTION raise_version();

-- ## Access

-- A role that is taken away, or a new password, ends what was opened with the old.
CREATE OR REPLACE FUNCTION end_sessions() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
    UPDATE sessions SET ended_at = now() WHERE person_id = NEW.id AND ended_at IS NULL;
    RETURN NULL;
END $$;
CREATE OR REPLACE TRIGGER end_sessions AFTER UPDATE ON persons FOR EACH ROW
    WHEN ((NEW.role, NEW.password_hash) IS DISTINCT FROM (OLD.role, OLD.password_hash))
    EXECUTE FUNCTION end_sessions();

-- ## What is announced to every process

-- Whoever changes the catalogue raises its term's version; every process then reads it again.
CREATE OR REPLACE FUNCTION tell_catalogue() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
    PERFORM pg_notify('gremba_catalogue', NEW.code);
    RETURN NULL;
END $$;
CREATE OR REPLACE TRIGGER tell_catalogue AFTER INSERT OR UPDATE ON terms
    FOR EACH ROW EXECUTE FUNCTION tell_catalogue();

CREATE OR REPLACE FUNCTION tell_clock() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
    PERFORM pg_notify('gremba_clock', '');
    RETURN NULL;
END $$;
CREATE OR REPLACE TRIGGER tell_clock_new AFTER INSERT ON campus_clock
    FOR EACH ROW EXECUTE FUNCTION tell_clock();
CREATE OR REPLACE TRIGGER tell_clock_moved AFTER UPDATE ON campus_clock
    FOR EACH ROW WHEN (NEW.campus_time - NEW.set_at IS DISTINCT FROM OLD.campus_time - OLD.set_at)
    EXECUTE FUNCTION tell_clock();

-- A session that has ended is believed nowhere any more.
CREATE OR REPLACE FUNCTION tell_session_end() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
    PERFORM pg_notify('gremba_session_end', encode(NEW.token_digest, 'hex'));
    RETURN NULL;
END $$;
CREATE OR REPLACE TRIGGER tell_session_end AFTER UPDATE ON sessions
    FOR EACH ROW WHEN (NEW.ended_at IS NOT NULL) EXECUTE FUNCTION tell_session_end();

-- Whoever changes seats need not think of it: the pools are announced, so many at a time as a
-- notification holds.
CREATE OR REPLACE FUNCTION tell_pools() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
    PERFORM pg_notify('gremba_seats', string_agg(id::text, ' '))
    FROM (SELECT id, row_number() OVER () / 500 AS part FROM changed) p
    GROUP BY part;
    RETURN NULL;
END $$;
CREATE OR REPLACE TRIGGER tell_seats AFTER UPDATE ON seat_pools REFERENCING NEW TABLE AS changed
    FOR EACH STATEMENT EXECUTE FUNCTION tell_pools();
-- A section that comes with an import has seats that no process has read yet.
CREATE OR REPLACE TRIGGER tell_new_pools AFTER INSERT ON seat_pools REFERENCING NEW TABLE AS changed
    FOR EACH STATEMENT EXECUTE FUNCTION tell_pools();
CREATE OR REPLACE FUNCTION tell_pools_of_rows() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
    PERFORM pg_notify('gremba_seats', string_agg(pool_id::text, ' '))
    FROM (SELECT pool_id, row_number() OVER () / 500 AS part
          FROM (SELECT DISTINCT pool_id FROM changed) d) p
    GROUP BY part;
    RETURN NULL;
END $$;
CREATE OR REPLACE TRIGGER tell_new_waitlist_entries AFTER INSERT ON waitlist_entries REFERENCING NEW TABLE AS changed
    FOR EACH STATEMENT EXECUTE FUNCTION tell_pools_of_rows();
CREATE OR REPLACE TRIGGER tell_waitlist_entries AFTER UPDATE ON waitlist_entries REFERENCING NEW TABLE AS changed
    FOR EACH STATEMENT EXECUTE FUNCTION tell_pools_of_rows();
CREATE OR REPLACE TRIGGER tell_new_reserved_seats AFTER INSERT ON reserved_seats
    REFERENCING NEW TABLE AS changed
    FOR EACH STATEMENT EXECUTE FUNCTION tell_pools_of_rows();
CREATE OR REPLACE TRIGGER tell_reserved_seats AFTER UPDATE ON reserved_seats
    REFERENCING NEW TABLE AS changed
    FOR EACH STATEMENT EXECUTE FUNCTION tell_pools_of_rows();

-- What of a student's has changed, for the pages that show it: "cart 17 23" and so on, the numbers
-- being rows of student_terms, a few hundred at a time.
CREATE OR REPLACE FUNCTION tell_students() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
    IF TG_ARGV[1] = 'student_id' THEN
        PERFORM pg_notify('gremba_students', TG_ARGV[0] || ' ' || string_agg(id::text, ' '))
        FROM (SELECT st.id, row_number() OVER () / 500 AS part FROM student_terms st
              WHERE st.student_id IN (SELECT student_id FROM changed)) p
        GROUP BY part;
    ELSIF TG_ARGV[1] = 'id' THEN
        PERFORM pg_notify('gremba_students', TG_ARGV[0] || ' ' || string_agg(id::text, ' '))
        FROM (SELECT id, row_number() OVER () / 500 AS part FROM changed) p
        GROUP BY part;
    ELSE
        PERFORM pg_notify('gremba_students', TG_ARGV[0] || ' ' || string_agg(id::text, ' '))
        FROM (SELECT student_term_id AS id, row_number() OVER () / 500 AS part
              FROM (SELECT DISTINCT student_term_id FROM changed WHERE student_term_id IS NOT NULL) d) p
        GROUP BY part;
    END IF;
    RETURN NULL;
END $$;
-- Tables, what their changes are told as, and the column that says whose they are.
DO $$
DECLARE told text[]; event text[];
BEGIN
    FOREACH told SLICE 1 IN ARRAY ARRAY[
        ['cart_changes', 'cart', 'student_term_id'],
        ['student_terms', 'cart', 'id'],
        ['registrations', 'week', 'student_term_id'],
        ['waitlist_entries', 'waitlists', 'student_term_id'],
        ['messages', 'messages', 'student_term_id'],
        ['permission_requests', 'requests', 'student_term_id'],
        ['clearance_items', 'clearance', 'student_term_id'],
        ['windows', 'clearance', 'student_term_id'],
        ['holds', 'clearance', 'student_id'],
        ['contact_details', 'clearance', 'student_id'],
        ['record_entries', 'clearance', 'student_id'],
        ['ledger_entries', 'account', 'student_term_id'],
        ['anticipated_payments', 'account', 'student_term_id'],
        ['joined_plans', 'account', 'student_term_id'],
        ['payments', 'account', 'student_id']
    ] LOOP
        FOREACH event SLICE 1 IN ARRAY ARRAY[['insert', 'NEW'], ['update', 'NEW'], ['delete', 'OLD']] LOOP
            EXECUTE format(
                'CREATE OR REPLACE TRIGGER tell_students_%s AFTER %s ON %I REFERENCING %s TABLE AS changed '
                'FOR EACH STATEMENT EXECUTE FUNCTION tell_students(%L, %L)',
                event[1], event[1], told[1], event[2], told[2], told[3]);
        END LOOP;
    END LOOP;
END $$;

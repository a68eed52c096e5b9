"""What must be so: rows that the decision speaks of, limits lowered, the order of waitlists, what
becomes of places, mail that is tried again, and versions of what stands in a cart."""

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
"""


def up(migrator, database):
    database.execute_sql(STATEMENTS)

-- Readings beside the entries they come from, kept by the database itself: by month, drawn together by time, the newest of each
-- series. A correction, or a file taken back, takes them out again. The log stays the record; all of this can be made from it anew.

CREATE TABLE logbook_reading (
    job_id uuid NOT NULL, kind varchar(20) NOT NULL, subject varchar(40) NOT NULL, place varchar(20) NOT NULL, vessel int NOT NULL,
    at timestamptz NOT NULL, value double precision NOT NULL, entry_id uuid NOT NULL, batch uuid
) PARTITION BY RANGE (at);
CREATE INDEX logbook_reading_series ON logbook_reading (job_id, kind, subject, place, vessel, at);
CREATE INDEX logbook_reading_at ON logbook_reading USING brin (at);
CREATE INDEX logbook_reading_batch ON logbook_reading (job_id, batch) WHERE batch IS NOT NULL;

CREATE TABLE logbook_bucket (
    job_id uuid NOT NULL, kind varchar(20) NOT NULL, subject varchar(40) NOT NULL, place varchar(20) NOT NULL, vessel int NOT NULL,
    level_s int NOT NULL, from_s bigint NOT NULL,
    least double precision NOT NULL, most double precision NOT NULL, total double precision NOT NULL, count int NOT NULL,
    PRIMARY KEY (job_id, kind, subject, place, vessel, level_s, from_s)
);

CREATE TABLE logbook_newest (
    job_id uuid NOT NULL, kind varchar(20) NOT NULL, subject varchar(40) NOT NULL, place varchar(20) NOT NULL, vessel int NOT NULL,
    at timestamptz NOT NULL, value double precision NOT NULL, entry_id uuid NOT NULL,
    PRIMARY KEY (job_id, kind, subject, place, vessel)
);

-- Seconds that are drawn together: the coarser ones for windows of months and years.
CREATE TABLE logbook_level (level_s int PRIMARY KEY);
INSERT INTO logbook_level VALUES (30), (300), (7200);
-- So few rows are never counted by themselves, and taken for thousands.
ANALYZE logbook_level;

-- A month is attached, not created in its place: that holds nobody up who reads. Its name is the one pg_partman would give it.
CREATE FUNCTION logbook_month(moment timestamptz) RETURNS void LANGUAGE plpgsql SECURITY DEFINER SET search_path = public SET jit = off AS $$
DECLARE
    first timestamptz := date_trunc('month', moment AT TIME ZONE 'UTC') AT TIME ZONE 'UTC';
    after timestamptz := (date_trunc('month', moment AT TIME ZONE 'UTC') + interval '1 month') AT TIME ZONE 'UTC';
    name text := 'logbook_reading_p' || to_char(first AT TIME ZONE 'UTC', 'YYYY_MM');
BEGIN
    IF to_regclass(name) IS NOT NULL THEN RETURN; END IF;
    PERFORM pg_advisory_xact_lock(hashtext(name));
    IF to_regclass(name) IS NOT NULL THEN RETURN; END IF;
    EXECUTE format('CREATE TABLE %I (LIKE logbook_reading INCLUDING DEFAULTS INCLUDING CONSTRAINTS)', name);
    EXECUTE format('ALTER TABLE logbook_reading ATTACH PARTITION %I FOR VALUES FROM (%L) TO (%L)', name, first, after);
END $$;

-- By statement: a file of a hundred thousand readings is taken in at once.
CREATE FUNCTION logbook_keep_readings() RETURNS trigger LANGUAGE plpgsql SECURITY DEFINER SET search_path = public SET jit = off AS $$
DECLARE
    month timestamptz;
    gone uuid[];
BEGIN
    FOR month IN SELECT DISTINCT date_trunc('month', device_at AT TIME ZONE 'UTC') AT TIME ZONE 'UTC' FROM fresh WHERE value IS NOT NULL LOOP
        PERFORM logbook_month(month);
    END LOOP;
    WITH r AS (
        SELECT e.job_id, e.kind, e.subject, e.place, coalesce(e.vessel, 0) AS vessel, e.device_at AS at, e.value, e.id AS entry_id, e.batch
        FROM fresh e
        WHERE e.value IS NOT NULL AND e.kind NOT IN ('kit', 'undone')
            AND NOT EXISTS (SELECT FROM logbook_entry c WHERE c.job_id = e.job_id AND c.corrects = e.id)
            AND NOT EXISTS (SELECT FROM logbook_entry u WHERE e.batch IS NOT NULL AND u.job_id = e.job_id AND u.batch = e.batch AND u.kind = 'undone')
    ), kept AS (
        INSERT INTO logbook_reading (job_id, kind, subject, place, vessel, at, value, entry_id, batch) SELECT * FROM r
    ), drawn AS (
        INSERT INTO logbook_bucket AS b (job_id, kind, subject, place, vessel, level_s, from_s, least, most, total, count)
        SELECT job_id, kind, subject, place, vessel, level_s, floor(date_part('epoch', at) / level_s)::bigint * level_s AS from_s,
            min(value), max(value), sum(value), count(*)
        FROM r, logbook_level GROUP BY 1, 2, 3, 4, 5, 6, 7
        -- One order for all, so that two statements never wait for each other; numbers are told apart soonest.
        ORDER BY level_s, from_s, job_id, kind, subject, place, vessel
        ON CONFLICT (job_id, kind, subject, place, vessel, level_s, from_s) DO UPDATE SET
            least = least(b.least, EXCLUDED.least), most = greatest(b.most, EXCLUDED.most),
            total = b.total + EXCLUDED.total, count = b.count + EXCLUDED.count
    )
    INSERT INTO logbook_newest AS n (job_id, kind, subject, place, vessel, at, value, entry_id)
    SELECT DISTINCT ON (job_id, kind, subject, place, vessel) job_id, kind, subject, place, vessel, at, value, entry_id
    FROM r ORDER BY job_id, kind, subject, place, vessel, at DESC, entry_id DESC
    ON CONFLICT (job_id, kind, subject, place, vessel) DO UPDATE SET at = EXCLUDED.at, value = EXCLUDED.value, entry_id = EXCLUDED.entry_id
    WHERE (n.at, n.entry_id) < (EXCLUDED.at, EXCLUDED.entry_id);
    IF EXISTS (SELECT FROM fresh WHERE corrects IS NOT NULL OR kind = 'undone') THEN
        SELECT array_agg(entry_id) INTO gone FROM (
            SELECT r.entry_id FROM fresh f JOIN logbook_entry e ON e.id = f.corrects AND e.job_id = f.job_id
            JOIN logbook_reading r ON r.job_id = e.job_id AND r.kind = e.kind AND r.at = e.device_at AND r.entry_id = e.id
            UNION
            SELECT r.entry_id FROM fresh f JOIN logbook_reading r ON r.job_id = f.job_id AND r.batch = f.batch WHERE f.kind = 'undone'
        ) AS found;
        IF gone IS NOT NULL THEN PERFORM logbook_take_out(gone); END IF;
    END IF;
    RETURN NULL;
END $$;

CREATE FUNCTION logbook_take_out(ids uuid[]) RETURNS void LANGUAGE plpgsql SECURITY DEFINER SET search_path = public SET jit = off AS $$
BEGIN
    CREATE TEMP TABLE IF NOT EXISTS touched (
        job_id uuid, kind varchar(20), subject varchar(40), place varchar(20), vessel int, at timestamptz
    ) ON COMMIT DROP;
    TRUNCATE touched;
    WITH gone AS (DELETE FROM logbook_reading WHERE entry_id = ANY (ids) RETURNING job_id, kind, subject, place, vessel, at)
    INSERT INTO touched SELECT * FROM gone;
    DELETE FROM logbook_bucket b USING touched t, logbook_level l
    WHERE (b.job_id, b.kind, b.subject, b.place, b.vessel) = (t.job_id, t.kind, t.subject, t.place, t.vessel)
        AND b.level_s = l.level_s AND b.from_s = floor(date_part('epoch', t.at) / l.level_s)::bigint * l.level_s;
    INSERT INTO logbook_bucket (job_id, kind, subject, place, vessel, level_s, from_s, least, most, total, count)
    SELECT r.job_id, r.kind, r.subject, r.place, r.vessel, w.level_s, w.from_s, min(r.value), max(r.value), sum(r.value), count(*)
    FROM (
        SELECT DISTINCT job_id, kind, subject, place, vessel, level_s, floor(date_part('epoch', at) / level_s)::bigint * level_s AS from_s
        FROM touched, logbook_level
    ) AS w
    JOIN logbook_reading r ON (r.job_id, r.kind, r.subject, r.place, r.vessel) = (w.job_id, w.kind, w.subject, w.place, w.vessel)
        AND r.at >= to_timestamp(w.from_s) AND r.at < to_timestamp(w.from_s + w.level_s)
    GROUP BY 1, 2, 3, 4, 5, 6, 7;
    DELETE FROM logbook_newest n USING touched t
    WHERE (n.job_id, n.kind, n.subject, n.place, n.vessel) = (t.job_id, t.kind, t.subject, t.place, t.vessel) AND n.entry_id = ANY (ids);
    INSERT INTO logbook_newest (job_id, kind, subject, place, vessel, at, value, entry_id)
    SELECT r.* FROM (SELECT DISTINCT job_id, kind, subject, place, vessel FROM touched) AS s, LATERAL (
        SELECT job_id, kind, subject, place, vessel, at, value, entry_id FROM logbook_reading x
        WHERE (x.job_id, x.kind, x.subject, x.place, x.vessel) = (s.job_id, s.kind, s.subject, s.place, s.vessel)
        ORDER BY at DESC, entry_id DESC LIMIT 1
    ) AS r
    ON CONFLICT (job_id, kind, subject, place, vessel) DO NOTHING;
END $$;

CREATE TRIGGER logbook_entry_readings AFTER INSERT ON logbook_entry REFERENCING NEW TABLE AS fresh
FOR EACH STATEMENT EXECUTE FUNCTION logbook_keep_readings();

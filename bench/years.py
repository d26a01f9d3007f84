"""A shop after years: finished jobs with their logs, as many as are asked for, made in the database at once."""

from sqlalchemy import Connection, text

ENTRIES_A_JOB = 50
TITLES = ("spacer", "gib", "guide", "key", "parallel", "liner", "shoe", "stop", "wedge", "cover")
FIRST = 1000


def many_years(connection: Connection, how_many: int) -> None:
    """Add finished jobs with fifty entries each; the pattern is the first job there is."""
    connection.execute(text("create temporary table n (n int primary key)"))
    connection.execute(
        text(
            "insert into n with recursive c as (select 1 as n union all select n + 1 from c where n < :most) "
            "select n from c"
        ).execution_options(),
        {"most": min(how_many, 1000)},
    )
    for block in range(-(-how_many // 1000)):
        _thousand(connection, FIRST + 1000 * block, min(1000, how_many - 1000 * block))
    for table in ("job", "part", "part_size", "part_face", "job_summary", "job_word", "log_entry"):
        connection.execute(text(f"analyze table `{table}`"))


PART = (
    "quantity, material, hardness_hrc, parallel_mm, mark_corner, reference_face, min_skin_mm, first_share, remarks, "
    "square_mm, flat_mm, ra_um, bow_mm, bow_shape, leave_mm, route, features"
)
"""What an old job's part has of the one it is like."""


def _thousand(connection: Connection, base: int, count: int) -> None:
    which = {"base": base, "count": count}
    titles = ", ".join(f"'{title}'" for title in TITLES)
    for statement in (
        f"insert into job (id, number, title, print_unit, due_on, owner_id, machine_id, wheel_id, version, created_at) "
        f"select :base + n, concat('OLD-', :base + n), concat('Old ', elt(1 + n mod {len(TITLES)}, {titles}), ' ', "
        ":base + n), "
        "print_unit, date_sub(curdate(), interval (n + 30) day), owner_id, machine_id, wheel_id, 1, created_at "
        "from n join job j on j.id = 1 where n <= :count",
        f"insert into part (id, job_id, {PART}) select :base + n, :base + n, {PART} "
        "from n join part p on p.job_id = 1 where n <= :count",
        "insert into part_size (part_id, axis, target_mm, tol_minus_mm, tol_plus_mm, measured_max_mm, measured_min_mm) "
        "select :base + n, axis, target_mm, tol_minus_mm, tol_plus_mm, measured_max_mm, measured_min_mm "
        "from n join part_size s on s.part_id = (select id from part where job_id = 1) where n <= :count",
        "insert into part_face (part_id, face, `condition`, cleanup_mm, purpose) select :base + n, face, `condition`, "
        "cleanup_mm, purpose from n join part_face f on f.part_id = (select id from part where job_id = 1) where n "
        "<= :count",
        "insert into job_summary (job_id, act, characteristic, words, waits_for, running, states, finished_at, "
        "last_at) "
        "select :base + n, 'finished', '', 'Finished', '', 0, states, date_sub(now(6), interval :base + n hour), "
        "date_sub(now(6), interval :base + n hour) from n join job_summary s on s.job_id = 1 where n <= :count",
        f"insert into job_word (word, job_id) select elt(1 + n mod {len(TITLES)}, {titles}), :base + n from n where "
        "n <= :count",
        "insert into job_word (word, job_id) select concat('old-', :base + n), :base + n from n where n <= :count",
        "insert into log_entry (entry_id, job_id, kind, at, by_id, note, characteristic) "
        "select concat('old-', :base + a.n, '-', b.n), :base + a.n, 'note', date_sub(now(6), interval b.n hour), 1, "
        f"'seen', 'thickness' from n a join (select n from n2) b where a.n <= :count and b.n <= {ENTRIES_A_JOB}",
    ):
        if "n2" in statement:
            connection.execute(text("create temporary table if not exists n2 (n int primary key)"))
            connection.execute(text(f"insert ignore into n2 select n from n where n <= {ENTRIES_A_JOB}"))
        connection.execute(text(statement), {name: value for name, value in which.items() if f":{name}" in statement})

"""A database of the benchmarks' own: they empty it, so they take no other.

``python -m benchmarks.place`` makes it beside the one that ``DATABASE_URL`` names, and prints its
address.
"""

from __future__ import annotations

import os

import psycopg
from psycopg import sql

NAME = "kyrtos_bench"


def make() -> str:
    """The address of the benchmarks' database, made where it is not there yet."""
    url = os.environ["DATABASE_URL"]
    with psycopg.connect(url, autocommit=True) as server:
        there = server.execute("select 1 from pg_database where datname = %s", [NAME]).fetchone()
        if not there:
            server.execute(sql.SQL("create database {}").format(sql.Identifier(NAME)))
    return f"{url.rsplit('/', 1)[0]}/{NAME}"


def empty() -> None:
    """Empty the database in hand, if it is the benchmarks' own.

    Raises
    ------
    SystemExit
        It is another: nothing is touched.
    """
    from django.db import connection

    name = connection.settings_dict["NAME"]
    if name != NAME:
        raise SystemExit(f"this empties its database, and will not touch '{name}': use ./run bench")
    with connection.cursor() as cursor:
        cursor.execute("drop schema public cascade; create schema public")


if __name__ == "__main__":
    print(make())

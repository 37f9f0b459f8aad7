"""The command line of measuring: every kind of file in, answers on the way, the practice rover and desk by themselves."""

import json
import socket
import subprocess
import sys
import urllib.request
import zipfile

import pytest
from places import HOME, demo_fences, few, plan, run, run_really

from gnomonic.core.job.reading import read_job
from gnomonic.core.plan import road
from gnomonic.formats.export import export_line

PYTHON = [sys.executable, "-m", "gnomonic.cli"]
ENVIRONMENT = {"PYTHONPATH": str(HOME / "src"), "PATH": "/usr/bin:/bin", "NUMBA_CACHE_DIR": str(HOME / "var" / "numba")}


@pytest.fixture(scope="module")
def exported(tmp_path_factory):
    """The demo paddock in every form, in a folder."""
    folder = tmp_path_factory.mktemp("forms")
    job = demo_fences()[-1]
    made = plan(job)
    for form, epsg in (("kml", ""), ("kmz", ""), ("dxf", "32626"), ("shp.zip", "32626"), ("gpx", ""), ("csv", "32626")):
        (folder / f"line.{form}").write_bytes(export_line(job, made, form, epsg))
    return folder, made.course.length_m


@pytest.mark.parametrize(
    ("file", "answers"),
    [
        ("line.kml", []),
        ("line.kmz", []),
        ("line.shp.zip", []),
        ("line.dxf", ["--answer", "crs=32626"]),
        ("line.csv", []),
    ],
)
def test_a_file_of_any_kind_becomes_a_job_from_the_shell(exported, file, answers):
    folder, length = exported
    done = run("import", file, *answers, "-o", f"{file}.json", cwd=folder)
    assert done.returncode == 0, done.stderr
    job = json.loads((folder / f"{file}.json").read_text("utf8"))
    kind = {"line.kml": "kml", "line.kmz": "kml", "line.shp.zip": "shapefile", "line.dxf": "dxf", "line.csv": "csv"}[
        file
    ]
    measured = job["lines"][0]["measured"]
    assert measured["source"]["kind"] == kind and len(measured["points"]) == 446 and measured["closed"]
    made = road.plan(read_job((folder / f"{file}.json").read_bytes())).lines["A"]
    assert made.course.length_m == pytest.approx(length, rel=5e-4)


def test_a_book_from_the_shell_is_kept_and_refused_in_one_sentence(tmp_path):
    (tmp_path / "b.legs").write_text("pace 2' 7\"\nN 4 E 40 paces\nsquare right 60 ft\n")
    assert run("import", "b.legs", "-o", "b.json", cwd=tmp_path).returncode == 0
    job = json.loads((tmp_path / "b.json").read_text("utf8"))
    measured = job["lines"][0]["measured"]
    assert measured["book"]["text"].startswith("pace") and measured["points"][1]["how"] == "pace"
    (tmp_path / "c.legs").write_text("N 4 E 40 m\ntriangle 1 2 5 m 6 m left\n")
    refused = run("import", "c.legs", "-o", "c.json", cwd=tmp_path)
    assert refused.returncode == 2 and refused.stdout == "" and refused.stderr.count("\n") == 1
    assert "line 2: sides of 40.00 m" in refused.stderr and not (tmp_path / "c.json").exists()
    (tmp_path / "d.legs").write_text("N 4 E 40 m\nE 5 m @ a\x01b\n")
    assert "can't be written (number 1)" in run("import", "d.legs", cwd=tmp_path).stderr


@pytest.mark.parametrize(
    ("kind", "ask", "answer"),
    [
        ("traverse", {"legs": [{"bearing_deg": 90, "slope_m": 5, "dh_m": 3}]}, {"perimeter_m": 4.0, "area_m2": None}),
        ("levels", {"start_rl_m": 5, "readings": [{"back_m": 1}, {"fore_m": 3}]}, {"rl_m": [5, 3]}),
        ("square", {"a_m": 4, "b_m": 3}, {"diagonal_m": 5}),
    ],
)
def test_pocket_sums_of_measuring_from_the_shell(tmp_path, kind, ask, answer):
    (tmp_path / "q.json").write_text(json.dumps(ask))
    done = run("calc", kind, "q.json", cwd=tmp_path)
    found = json.loads(done.stdout)
    assert done.returncode == 0 and found["why"]
    assert {k: found[k] for k in answer} == answer


@pytest.mark.parametrize("what", ["rover", "desk"])
def test_the_practice_rover_and_desk_run_by_themselves(what, tmp_path):
    process = subprocess.Popen(
        [*PYTHON, "practice", what], cwd=tmp_path, env=ENVIRONMENT, stdout=subprocess.PIPE, text=True
    )
    try:
        said = process.stdout.readline()
        address = said.split(" on ")[1].split(";")[0].removeprefix("http://")
        host, _, port = address.partition(":")
        assert host == "127.0.0.1", "on loopback only"
        if what == "rover":
            with socket.create_connection((host, int(port)), timeout=10) as link:
                assert link.recv(7).startswith(b"$GNGGA")
        else:
            body = json.dumps({"route": [[0, 0], [90, 0]], "frame": "local", "white": [[0, 0]]}).encode()
            with urllib.request.urlopen(urllib.request.Request(f"http://{address}/tickets", body), timeout=10) as reply:
                assert json.load(reply)["state"] == "requested"
    finally:
        process.terminate()
        process.wait(10)
        process.stdout.close()


def test_the_shell_opens_a_saved_job_and_asks_which_line(exported, tmp_path):
    folder, _ = exported
    assert run("import", "line.kml", "-o", "first.json", cwd=folder).returncode == 0
    assert run("import", "first.json", "-o", "again.json", cwd=folder).returncode == 0
    assert (folder / "again.json").read_bytes() == (folder / "first.json").read_bytes(), "opened as it was"
    mark = "<Placemark><name>{}</name><LineString><coordinates>{}</coordinates></LineString></Placemark>"
    rows = (("far", "0,0 0,1.067"), ("north", "3,0,5 3,0.001,6"), ("south", "3,1,5 3,1.001,6"))
    (tmp_path / "many.kml").write_text(f"<kml>{''.join(mark.format(*row) for row in rows)}</kml>")
    asked = run("import", "many.kml", cwd=tmp_path)
    assert asked.returncode == 2 and asked.stdout == ""
    assert "line 1 (far) can't be a line of a fence: the line is 118 km long" in asked.stderr
    assert "the file holds 2 lines (2 north; 3 south): say which with --answer shape=N" in asked.stderr
    taken = run("import", "many.kml", "--answer", "shape=3", cwd=tmp_path)
    assert taken.returncode == 0 and len(json.loads(taken.stdout)["lines"][0]["measured"]["points"]) == 2
    with zipfile.ZipFile(folder / "line.shp.zip") as whole, zipfile.ZipFile(tmp_path / "bare.zip", "w") as bare:
        for name in ("line.shp", "line.shx", "line.dbf"):
            bare.writestr(name, whole.read(name))
    which = run("import", "bare.zip", cwd=tmp_path)
    assert (
        which.returncode == 2
        and "--answer crs=local" in which.stderr
        and "--answer crs=CODE (EPSG code, such as 32626)" in which.stderr
    )
    (tmp_path / "torn.json").write_text('{"format": "gnomonic-job/2", "name": ')
    torn = run("import", "torn.json", cwd=tmp_path)
    assert torn.returncode == 2 and "not a Job document" in torn.stderr and torn.stderr.count("\n") == 1


@pytest.mark.parametrize("name", few(["line.dxf", "line.shp.zip", "line.kmz"], 1))
def test_what_libraries_warn_of_never_reaches_the_terminal(exported, tmp_path, name):
    """A file with a few bytes wrong: one line on standard error, whatever the library had to say of it."""
    folder, _ = exported
    body = bytearray((folder / name).read_bytes())
    body[len(body) // 2 : len(body) // 2 + 40] = b"\xff" * 40
    (tmp_path / name).write_bytes(bytes(body))
    done = run_really("import", name, "--answer", "crs=32626", "-o", "x.json", cwd=tmp_path)
    assert "Warning" not in done.stderr and "Traceback" not in done.stderr
    assert all(line.startswith("gnomonic: ") for line in done.stderr.splitlines()[:-1])

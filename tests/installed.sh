#!/bin/sh
# The package as somebody would install it: its wheel in an environment with nothing else, and every command run there.
set -eu
PYTHON=${PYTHON:-python3}
where=$(mktemp -d)
trap 'rm -rf "$where"' EXIT
"$PYTHON" -m venv "$where/env"
"$where/env/bin/pip" wheel --quiet --disable-pip-version-check --no-deps --wheel-dir "$where" .
"$where/env/bin/pip" install --quiet --disable-pip-version-check "$where"/fjeld-*.whl
cd "$where"
bin=$where/env/bin
"$bin/fjeld" --version
"$bin/fjeld" schema > schema.json
"$bin/python" -c "from pathlib import Path; from fjeld.demo import job_file; Path('job.json').write_bytes(job_file('boot-room'))"
# 1 is a finding, and an answer; only a file that cannot be read, or a fault, is more.
may_find() { "$@" > out.txt 2> err.txt || [ $? -eq 1 ] || { cat err.txt; exit 1; }; ! grep -q Traceback err.txt || { cat err.txt; exit 1; }; }
may_find "$bin/fjeld" check job.json
may_find "$bin/fjeld" derive job.json --json
may_find "$bin/fjeld" prove job.json --json
for to in spice csv json; do may_find "$bin/fjeld" export job.json --to "$to"; done
# Each question, asked nothing: it says in a line what it wants, and breaks nowhere.
for command in $("$bin/fjeld" --help | sed -n 's/.*{\(.*\)}.*/\1/p' | head -1 | tr ',' ' '); do
	case $command in check | derive | prove | export | schema) continue ;; esac
	echo '{}' | "$bin/fjeld" "$command" - > out.txt 2> err.txt || true
	! grep -q Traceback err.txt || { echo "fjeld $command:"; cat err.txt; exit 1; }
done
"$bin/python" -c "from fjeld.demo import job_file; from fjeld.derive.plan import derive; from fjeld.formats.jobfile import decode; from fjeld.graphics import page, pdf; from fjeld.graphics.mark_out import mark_out; assert pdf.write(mark_out(derive(decode(job_file('boot-room'))), 'A', 1), page.PAPERS['A4']).startswith(b'%PDF')"
FJELD_VAR=$where/var "$bin/python" -m django check --settings fjeld.web.settings
FJELD_VAR=$where/var "$bin/python" -m django migrate --verbosity 0 --settings fjeld.web.settings
test -n "$("$bin/python" -c "from importlib.resources import files; print(*(p.name for p in (files('fjeld') / 'licences').iterdir()))")"
echo "installed: every command runs"

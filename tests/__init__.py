"""Tests mirror the package. They run without a display and keep settings and files in a folder of their own."""

import atexit
import os
import shutil
import tempfile

from hypothesis import HealthCheck, settings

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
_SCRATCH = tempfile.mkdtemp(prefix="lesna-tests-")
for _variable in ("XDG_CONFIG_HOME", "XDG_STATE_HOME", "XDG_DATA_HOME", "XDG_CACHE_HOME"):
    os.environ[_variable] = os.path.join(_SCRATCH, _variable.lower())
# kernels are compiled once for all processes of a run
os.environ["XDG_CACHE_HOME"] = os.environ.get("LESNA_TEST_CACHE", os.environ["XDG_CACHE_HOME"])
atexit.register(shutil.rmtree, _SCRATCH, ignore_errors=True)
# a test fails by what it finds, never because the machine is busy
settings.register_profile("lesna", deadline=None, suppress_health_check=[HealthCheck.too_slow])
settings.load_profile("lesna")

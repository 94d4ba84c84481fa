"""Switching a supply off when the program dies.

``Guard`` is held while an output is on. It keeps a small process of its own, which waits at a pipe:
when the program ends in any way, killed or crashed, the pipe breaks, and the process opens the
supply and switches it off. It cannot when the computer itself dies.
"""

import subprocess
import sys

SAFE = b"off\n"
"""Told to the process when the output was switched off: nothing is left to do."""

WAIT_S = 20


class Guard:
    """Switches an instrument off when this process dies. resource: its VISA name."""

    def __init__(self, resource: str, backend: str = "@py") -> None:
        words = [sys.executable, "-m", "molvik.instruments.offprocess", resource, backend]
        self._process = subprocess.Popen(
            words,
            stdin=subprocess.PIPE,
            stdout=subprocess.DEVNULL,
            stderr=subprocess.DEVNULL,
            start_new_session=True,  # what stops the program from a terminal does not stop this
        )

    def release(self) -> None:
        """The output is off: let the process go."""
        pipe = self._process.stdin
        assert pipe is not None
        try:
            pipe.write(SAFE)
            pipe.close()
        except OSError:
            pass  # it is gone
        try:
            self._process.wait(WAIT_S)
        except subprocess.TimeoutExpired:
            self._process.kill()

    def is_alive(self) -> bool:
        """Return whether it stands by."""
        return self._process.poll() is None

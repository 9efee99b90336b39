"""`python -m unkett.web.site.serve FD`: one process of the production server, on a socket that the launcher has bound.

The server takes in a whole request before a thread works on it, so that a slow or half-sent one holds none.
"""

from __future__ import annotations

import socket
import sys

import waitress
from django.conf import settings

from unkett.web.site.wsgi import application

THREADS = 6  # few: they share one interpreter; processes share the cores
SWITCH_S = 0.001  # how soon the thread that sends and takes in gets its turn beside those that compute
BODY_MOST = 6_000_000  # bytes of a request; a larger one is refused by its stated length
HEADER_MOST = 64_000
PROXY = {"trusted_proxy": "127.0.0.1", "trusted_proxy_headers": {"x-forwarded-for", "x-forwarded-proto"}}
QUIET_S = 30  # a connection that sends nothing for so long is closed
CONNECTIONS = 400


def main(args: list[str]) -> int:
    """Serve until reported to end."""
    sys.setswitchinterval(SWITCH_S)
    listens = socket.socket(fileno=int(args[0]))
    waitress.serve(
        application,
        sockets=[listens],
        threads=THREADS,
        max_request_body_size=BODY_MOST,
        max_request_header_size=HEADER_MOST,
        channel_timeout=QUIET_S,
        cleanup_interval=5,
        connection_limit=CONNECTIONS,
        ident=None,
        clear_untrusted_proxy_headers=True,
        **(PROXY if settings.HTTPS else {}),
    )
    return 0


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))

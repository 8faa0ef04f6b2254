"""Beyond this machine: who comes in shows a token, once by a link and then by a cookie."""

from __future__ import annotations

import hashlib
import os
import secrets
from http.cookies import CookieError, SimpleCookie
from pathlib import Path
from urllib.parse import parse_qsl, urlencode

from starlette.datastructures import Headers
from starlette.responses import HTMLResponse, RedirectResponse, Response
from starlette.types import ASGIApp, Receive, Scope, Send

from nebrel.core.errors import Refused, StorageFailed
from nebrel.web.errors import respond

_FILE = "token"
_YEAR_S = 365 * 24 * 3600
_SHORTEST = 32
_PAGE = """<!doctype html>
<html lang="en">
<head>
<meta charset="utf-8">
<meta name="viewport" content="width=device-width">
<title>Nebrel: token</title>
<style>
body {{ margin: 15vh auto; max-width: 26rem; padding: 0 1rem; font: 16px/1.5 sans-serif;
  color: #23201d; background: #f6f3ee }}
label {{ display: block; font-weight: 600 }}
input, button {{ font: inherit; padding: .4rem .6rem; border: 1px solid #6b645c;
  border-radius: 4px; background: #fff; color: inherit }}
input {{ width: 100%; box-sizing: border-box; margin: .25rem 0 .75rem }}
button {{ background: #23201d; color: #fff; cursor: pointer }}
</style>
</head>
<body>
<main>
<h1>nebrel</h1>
<p>{words}</p>
<form method="get" action="">
<label for="token">Token</label>
<input id="token" name="token" type="password" autocomplete="current-password" autofocus required>
<button>Come in</button>
</form>
</main>
</body>
</html>
"""
_ASKED = "Whoever comes from another machine shows a token. It is in the link that was printed \
where this server was started."
_WRONG = "This is not the token. It is in the link that was printed where this server was started."


def token_of(folder: Path) -> str:
    """The token of a data folder, made when there is none. Raises StorageFailed."""
    path = folder / _FILE
    try:
        if path.is_file() and len(known := path.read_text("ascii").strip()) >= _SHORTEST:
            return known
        made = secrets.token_urlsafe(_SHORTEST)
        path.unlink(missing_ok=True)
        handle = os.open(path, os.O_WRONLY | os.O_CREAT | os.O_EXCL, 0o600)
        with os.fdopen(handle, "w") as file:
            file.write(made + "\n")
    except (OSError, ValueError) as error:
        why = f"the token cannot be kept there ({error})"
        raise StorageFailed(str(folder), why, "Make the folder writable") from error
    return made


class Entry:
    """Lets in who shows the token; the others see the page that asks for it, and nothing else.

    Parameters
    ----------
    app : what lies behind
    token : what has to be shown
    """

    def __init__(self, app: ASGIApp, token: str) -> None:
        self._app = app
        self._token = token
        # Cookies know no ports: two servers of one machine do not take each other's.
        self._cookie = f"nebrel-{hashlib.sha256(token.encode()).hexdigest()[:12]}"

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Let a request in, or ask for the token."""
        if scope["type"] != "http" or self._shown(Headers(scope=scope)):
            await self._app(scope, receive, send)
            return
        await self._asked(scope)(scope, receive, send)

    def _shown(self, headers: Headers) -> bool:
        scheme, _, bearer = headers.get("authorization", "").partition(" ")
        if scheme.lower() == "bearer" and self._is(bearer.strip()):
            return True
        try:
            cookies = SimpleCookie(headers.get("cookie", ""))
        except CookieError:
            return False
        return self._cookie in cookies and self._is(cookies[self._cookie].value)

    def _is(self, shown: str) -> bool:
        return secrets.compare_digest(shown.encode("utf-8", "replace"), self._token.encode())

    def _asked(self, scope: Scope) -> Response:
        path = scope["path"]
        if path.startswith("/api/"):
            words = "whoever comes from another machine shows it"
            return respond(Refused("token", words, "Open the link that was printed"), 401)
        query = parse_qsl(scope["query_string"].decode("latin-1"), keep_blank_values=True)
        tokens = [value for name, value in query if name == "token"]
        if scope["method"] == "GET" and tokens and self._is(tokens[-1]):
            rest = urlencode([(name, value) for name, value in query if name != "token"])
            # A path of two slashes would be another host.
            where = "/" + scope.get("raw_path", path.encode()).decode("latin-1").lstrip("/\\")
            answer: Response = RedirectResponse(where + (f"?{rest}" if rest else ""), 303)
            answer.set_cookie(
                self._cookie, self._token, max_age=_YEAR_S, httponly=True, samesite="lax"
            )
        else:
            answer = HTMLResponse(_PAGE.format(words=_WRONG if tokens else _ASKED), 401)
        answer.headers["Cache-Control"] = "no-store"
        return answer

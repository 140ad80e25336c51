"""Who may do what: every call of the API, the least that somebody has to be for it, and a body that
is asked for rightly. The test fails where a call stands here that there is not, or the other way round.

anybody: also without an account. account: whoever is logged in (what they see is theirs alone).
player, editor, owner: of the song, or of what else is named. asker: whoever asked for the job or owns
the thing by themselves. group_owner: an owner of the group.
"""

from __future__ import annotations

_BARS = {"first": 1, "last": 2}
_EDIT = {"base": 0, "edit": {"operation": "rename_section", "id": "sec1", "name": "Dawn"}}
_LIST = {"title": "Friday"}
_FILES = (
    "mei",
    "pdf",
    "count",
    "csv",
    "mid",
    "musicxml",
    "orchesis",
    "tab",
    "beats.tsv",
    "sections.tsv",
    "strokes.tsv",
)

#: (method, path) -> (the least, body, query)
WHO: dict[tuple[str, str], tuple[str, dict | None, str]] = {}


def _may(least: str, *calls: str, body: dict | None = None) -> None:
    for call in calls:
        method, path = call.split(" ")
        path, _, query = path.partition("?")
        WHO[method, path] = (least, body, query)


_may("anybody", "get /api/counting/{school}")
_may("anybody", "get /api/session", "delete /api/session")
_may("anybody", "post /api/session", body={"name": "rim", "password": "shot"})
_may(
    "anybody",
    "get /api/invitations/{token}",
    "get /api/asked/{token}",
    "get /api/given-lists/{token}",
)
_may(
    "anybody",
    "get /api/player/{token}",
    "get /api/player/{token}/pages/{number}",
    "delete /api/player/{token}/progress?device=abcdefgh",
    "get /api/player/{token}/sound/{number}",
    "get /api/player/{token}/clips/{number}",
    "get /api/player/{token}/words/{word}",
)
_may(
    "anybody",
    "post /api/player/{token}/progress",
    body={"device": "abcdefgh", "name": "Maarten", "minutes": 1, "stages": []},
)
_may("anybody", "post /api/asked/{token}", body={"title": "X", "name": "Y", "device": "abcdefgh"})
_may("anybody", "post /api/asked/{token}/votes", body={"song": 0, "device": "abcdefgh"})
_may(
    "anybody",
    "post /api/accounts",
    body={"name": "new", "password": "nine brass lanterns", "invitation": "{invitation}"},
)

_may(
    "account",
    "get /api/account",
    "get /api/account/devices",
    "delete /api/account/devices",
    "post /api/account/backup",
    "get /api/forecast",
    "get /api/groups",
    "get /api/kept-fills",
    "get /api/keys-of-mine",
    "get /api/kit-of-mine",
    "get /api/lessons",
    "get /api/mentions",
    "get /api/spoken-words/{word}",
    "get /api/practice",
    "get /api/practice/plan?minutes=20",
    "get /api/request-form",
    "get /api/set-lists",
    "get /api/songs",
    "get /api/songs/tags",
    "post /api/invitations/{token}",
)
_may("account", "post /api/account/end", body={"password": "shot"})
_may("account", "put /api/account/password", body={"old": "shot", "new": "nine brass lanterns"})
_may("account", "post /api/groups", body={"name": "Others"})
_may("account", "put /api/keys-of-mine", body={"keys": {}})
_may(
    "account",
    "put /api/kit-of-mine",
    body={"player": {}, "counting": "letters", "reads": "staff", "note_names": "letters"},
)
_may("account", "post /api/set-lists", body=_LIST)
_may("account", "put /api/my-words", body={"words": ["KET-tle"]})
_may("account", "post /api/songs", body={"title": "X"})
_may("account", "put /api/request-form", body={"title": "X"})
_may(
    "account",
    "put /api/practice",
    body={"level": 95.0, "protection": 20.0, "rule": "85/3", "minutes": 30},
)
_may("account", "post /api/packages", body={})

_may(
    "player",
    *(
        f"get /api/songs/{{id}}{view}"
        for view in (
            "",
            "/arrangements",
            "/arrangements/{number}/differences",
            "/bass?first=1&last=2",
            "/chart",
            "/comments",
            "/decisions",
            "/elsewhere?bar=2",
            "/evidence",
            "/feel",
            "/fills",
            "/grooves",
            "/hands",
            "/history",
            "/play-alongs",
            "/proposals",
            "/question?seed=1",
            "/search?bar=2&scope=kick",
            "/sounds",
            "/stages?first=1&last=2",
            "/stages/staff?first=1&last=2",
            "/rhythm-words?first=1&last=2",
            "/stages/sheet?first=1&last=2",
            "/stickings?bar=2",
            "/transcription",
            "/transcription/band?bar=2",
            "/transcription/compare?bar=2&with=3",
            "/transcription/review",
            "/transcription/text?first=1&last=2",
            *(f"/chart.{ending}" for ending in _FILES),
        )
    ),
)
_may(
    "player",
    "get /api/takes/{id}/original",
    "get /api/takes/{id}/outline",
    "get /api/takes/{id}/picture?start=0&end=2",
    "get /api/takes/{id}/sound/{number}",
    "get /api/play-alongs/{id}/file",
    "get /api/clips/{id}",
    "get /api/named-versions/{id}",
    "get /api/set-lists/{id}",
    "get /api/set-lists/{id}/paper",
    "post /api/set-lists/{id}/paper",
)
_may("player", "post /api/songs/{id}/comments", body={"words": "Hm?", "bar": 2})
_may("player", "patch /api/comments/{id}", body={"resolved": True})
_may("player", "post /api/songs/{id}/judge", body={**_BARS, "stage": 0, "share": 0.6, "played": []})
_may(
    "player", "post /api/songs/{id}/simulate", body={**_BARS, "stage": 0, "share": 0.6, "loops": 1}
)
_may(
    "player",
    "post /api/songs/{id}/loops",
    body={**_BARS, "stage": 0, "judgement": "relaxed", "seconds": 8.0, "tempo": 60.0},
)
_may("player", "post /api/songs/{id}/play-alongs", body={})
_may("player", "post /api/songs/{id}/practised-sounds", body={})
_may("player", "post /api/kept-fills", body={"song": "{song}", "fill": 0, "note": ""})

_may(
    "editor",
    "get /api/songs/{id}/player-links",
    "get /api/player-links/{id}/sheet",
    "delete /api/player-links/{id}",
    "post /api/player-links/{id}/update",
    "get /api/songs/{id}/package",
    "delete /api/named-versions/{id}",
    "post /api/named-versions/{id}",
    "delete /api/songs/{id}/arrangements/{number}",
    "post /api/songs/{id}/takes",
    "post /api/songs/{id}/clips",
    "delete /api/clips/{id}",
)
_may("editor", "patch /api/songs/{id}", body={"title": "X"})
_may("editor", "post /api/songs/{id}/transcription/edits", body=_EDIT)
_may(
    "editor",
    "post /api/songs/{id}/transcription/undo",
    "post /api/songs/{id}/transcription/redo",
    body={"base": 0},
)
_may("editor", "post /api/songs/{id}/arrangements", body={"name": "Mine"})
_may("editor", "patch /api/songs/{id}/arrangements/{number}", body={"name": "Ours"})
_may("editor", "post /api/songs/{id}/arrangements/{number}/update", body={"take": []})
_may("editor", "post /api/songs/{id}/history", body={"name": "v"})
_may("editor", "post /api/songs/{id}/minutes", body={"minutes": 5})
_may(
    "editor",
    "put /api/songs/{id}/stages",
    body={**_BARS, "order": "computed", "stages": [], "dropped": []},
)
_may("editor", "post /api/songs/{id}/player-links", body={"title": "L"})
_may("editor", "put /api/player-links/{id}", body={"title": "L"})
_may("editor", "put /api/set-lists/{id}", body={**_LIST, "group": "{group}"})

_may(
    "owner",
    "delete /api/songs/{id}",
    "delete /api/set-lists/{id}",
    "post /api/songs/{id}/restore",
    "post /api/songs/{id}/erase",
)
_may("owner", "put /api/takes/{id}/rights", body={"rights": "own"})

_may("editor", "post /api/jobs/{id}/cancel", "post /api/jobs/{id}/retry")
_may(
    "asker",
    "get /api/account/backup",
    "delete /api/kept-fills/{id}",
    "get /api/practised-sounds/{id}",
    "delete /api/comments/{id}",
)
_may("asker", "patch /api/kept-fills/{id}", body={"note": "x"})

_may(
    "group_owner",
    "delete /api/groups/{id}",
    "delete /api/groups/{id}/invitations/{number}",
    "delete /api/groups/{id}/members/{user}",
)
_may("group_owner", "put /api/groups/{id}", body={"name": "x"})
_may("group_owner", "post /api/groups/{id}/invitations", body={"role": "player"})
_may("group_owner", "put /api/groups/{id}/members/{user}", body={"role": "player"})

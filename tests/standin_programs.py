"""Programs on a private accessibility bus, as a stand-in: ``python standin_programs.py`` reads them as JSON from standard input.

Each is a tree of objects with ``role``, ``name``, ``keys`` and ``inside``; ``wait`` seconds before it answers, ``silent`` ones
never do, ``broken`` ones answer with an error; ``fills`` comes to be inside once its action was carried out.
"""

from __future__ import annotations

import json
import sys
import time
from typing import Any

from jeepney import HeaderFields, MessageType, message_bus, new_error, new_method_return
from jeepney.io.blocking import open_dbus_connection

ROOT = "/org/a11y/atspi/accessible/root"


def serve(programs: list[dict[str, Any]]) -> None:
    nodes: dict[str, dict[str, Any]] = {}
    paths: dict[int, str] = {}

    def put(node: dict[str, Any], path: str) -> None:
        nodes[path], paths[id(node)] = node, path
        for inner in (*node.get("inside", ()), *node.get("fills", ())):
            put(inner, f"/n{len(nodes)}")

    put({"role": 75, "name": "", "inside": programs}, ROOT)
    bus = open_dbus_connection(bus="SESSION")
    bus.send_and_get_reply(message_bus.RequestName("org.a11y.atspi.Registry"), timeout=5)
    print("ready", flush=True)
    while True:
        message = bus.receive()
        if message.header.message_type is not MessageType.method_call:
            continue
        fields = message.header.fields
        member, path = fields.get(HeaderFields.member), str(fields.get(HeaderFields.path))
        if member == "GenerateKeyboardEvent":
            print(f"struck {message.body[0]:x}", flush=True)
            bus.send(new_method_return(message))
            continue
        node = nodes.get(path)
        if node is None or node.get("broken"):
            bus.send(new_error(message, "org.freedesktop.DBus.Error.Failed", "s", ("it is broken",)))
            continue
        if node.get("silent"):
            continue
        time.sleep(node.get("wait", 0))
        if member == "GetChildren":
            refs = [(bus.unique_name, paths[id(inner)]) for inner in node.get("inside", ())]
            answer = ("a(so)", (refs,))
        elif member == "GetRole":
            answer = ("u", (node["role"],))
        elif member == "GetState":
            answer = ("au", ([1 << 8, 0],))
        elif member == "GetKeyBinding":
            answer = ("s", (node.get("keys", ""),))
        elif member == "DoAction":
            print(f"opened {node['name']}", flush=True)
            node["inside"] = node.get("fills", ())
            answer = ("b", (True,))
        else:
            answer = ("v", (("s", node["name"]),))
        bus.send(new_method_return(message, *answer))


if __name__ == "__main__":
    serve(json.load(sys.stdin))

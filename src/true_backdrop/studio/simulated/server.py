"""The simulated studio as a process: `python -m true_backdrop.studio.simulated.server`.

It stands for a device: it shares nothing with the program but the wire.
"""

from __future__ import annotations

import argparse
import asyncio
import contextlib
import logging
import tempfile
import time
from pathlib import Path

import cv2
from pydantic import ValidationError

from true_backdrop.studio import wire
from true_backdrop.studio.errors import DeviceGone, StudioError, word_for
from true_backdrop.studio.simulated.device import SimulatedStudio

log = logging.getLogger("true_backdrop.simulated_studio")
#: Pictures a second that the live view aims at.
LIVE_RATE = 15


class Server:
    """Answers orders on every connection; a connection that asks for the live view gets nothing else."""

    def __init__(self, studio: SimulatedStudio) -> None:
        self._studio = studio

    async def serve(self, reader: asyncio.StreamReader, writer: asyncio.StreamWriter) -> None:
        with contextlib.suppress(ConnectionError, asyncio.IncompleteReadError):
            try:
                while True:
                    head_length, body_length = wire.lengths(await reader.readexactly(wire.PREFIX))
                    order = wire.parsed(await reader.readexactly(head_length))
                    await reader.readexactly(body_length)
                    if order.get("do") == "live":
                        await self._live(writer)
                        return
                    await self._answer(order, writer)
            except DeviceGone:
                pass  # a pulled cable says nothing
            finally:
                writer.close()

    async def _answer(self, order: dict[str, object], writer: asyncio.StreamWriter) -> None:
        try:
            head, body = await asyncio.to_thread(self._studio.ask, order)
        except DeviceGone:
            raise
        except StudioError as fault:
            head, body = {"fault": word_for(fault), "said": str(fault)}, b""
        except (ValidationError, TypeError, KeyError, ValueError) as fault:
            head, body = {"fault": "refused", "said": f"the simulated studio cannot do that: {str(fault).splitlines()[0]}"}, b""
        writer.write(wire.packed(head, body))
        await writer.drain()

    async def _live(self, writer: asyncio.StreamWriter) -> None:
        number = 0
        while True:
            began = time.monotonic()
            self._studio.check_line()
            made_at = time.time()
            jpeg = await asyncio.to_thread(self._studio.live_frame)
            number += 1
            writer.write(wire.packed({"number": number, "made_at": made_at}, jpeg))
            await writer.drain()
            await asyncio.sleep(max(0.002, 1 / LIVE_RATE - (time.monotonic() - began)))


async def _run(host: str, port: int, studio: SimulatedStudio) -> None:
    server = await asyncio.start_server(Server(studio).serve, host, port)
    async with server:
        await server.serve_forever()


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--layers", type=Path, required=True, help="folder of rendered light, one folder for each angle")
    parser.add_argument("--host", default="127.0.0.1")
    parser.add_argument("--port", type=int, default=8471)
    parser.add_argument("--width", type=int, default=1500, help="width of a take in pixels; the height is two thirds of it")
    parser.add_argument("--card", type=Path, help="folder that stands for the camera's card; default: a new one each time")
    parser.add_argument("--seed", type=int, help="of the takes' noise; default: another one each time")
    args = parser.parse_args()
    logging.basicConfig(level=logging.INFO)
    cv2.setNumThreads(1)
    card = args.card or Path(tempfile.mkdtemp(prefix="true-backdrop-card-"))
    studio = SimulatedStudio(args.layers, (args.width * 2 // 3, args.width), card, seed=args.seed)
    studio.warm()
    with contextlib.suppress(KeyboardInterrupt):
        asyncio.run(_run(args.host, args.port, studio))


if __name__ == "__main__":
    main()

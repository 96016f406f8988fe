"""What lies between a phone and the server: a signal, none, a hotel's sign-in page, answers that get lost on their way."""

import asyncio
import threading
from contextlib import suppress

_PAGE = b"<!doctype html><title>Guest network</title><h1>Please sign in</h1>"
SIGN_IN = b"HTTP/1.1 200 OK\r\nContent-Type: text/html\r\nContent-Length: %d\r\nConnection: close\r\n\r\n%s" % (len(_PAGE), _PAGE)
STATES = ("signal", "none", "sign-in", "deaf")


class Network:
    """The ways of some phones to one server, each with a port of its own and a state that can be changed.

    "deaf": what the phone sends arrives, and no answer comes back.
    """

    def __init__(self, phones: int, server_port: int) -> None:
        self.server_port = server_port
        self.states = ["signal"] * phones
        self.ports: list[int] = []
        self._open: set[tuple[int, asyncio.StreamWriter]] = set()
        self._tasks: set[asyncio.Task | None] = set()
        self._loop = asyncio.new_event_loop()
        self._thread = threading.Thread(target=self._loop.run_forever, daemon=True)
        self._thread.start()
        self._servers = [asyncio.run_coroutine_threadsafe(self._listen(phone), self._loop).result() for phone in range(phones)]

    async def _listen(self, phone: int) -> asyncio.Server:
        async def met(reader: asyncio.StreamReader, writer: asyncio.StreamWriter) -> None:
            self._open.add((phone, writer))
            # Nothing else holds on to the task.
            self._tasks.add(asyncio.current_task())
            try:
                # Cut off at the end, it ends as one that was served: else the loop complains of it.
                with suppress(OSError, asyncio.IncompleteReadError, asyncio.CancelledError):
                    await self._serve(self.states[phone], reader, writer)
            finally:
                self._open.discard((phone, writer))
                self._tasks.discard(asyncio.current_task())
                writer.close()

        server = await asyncio.start_server(met, "127.0.0.1", 0)
        self.ports.append(server.sockets[0].getsockname()[1])
        return server

    async def _serve(self, state: str, reader: asyncio.StreamReader, writer: asyncio.StreamWriter) -> None:
        if state == "none":
            return
        if state == "sign-in":
            await reader.readuntil(b"\r\n\r\n")
            writer.write(SIGN_IN)
            await writer.drain()
            return
        far_reader, far_writer = await asyncio.open_connection("127.0.0.1", self.server_port)
        there = asyncio.ensure_future(_carry(reader, far_writer))
        try:
            if state == "deaf":
                await far_reader.read(1)
            else:
                # Where either end hangs up the other hears of it.
                back = asyncio.ensure_future(_carry(far_reader, writer))
                await asyncio.wait({there, back}, return_when=asyncio.FIRST_COMPLETED)
                back.cancel()
        finally:
            there.cancel()
            await asyncio.gather(there, return_exceptions=True)
            far_writer.close()

    def set(self, phone: int, state: str) -> None:
        """Change the state of a phone's way; what is on it is cut off."""
        self.states[phone] = state

        async def cut() -> None:
            for of, writer in list(self._open):
                if of == phone:
                    writer.transport.abort()

        asyncio.run_coroutine_threadsafe(cut(), self._loop).result()

    def close(self) -> None:
        async def end() -> None:
            for server in self._servers:
                server.close()
            tasks = [task for task in asyncio.all_tasks() if task is not asyncio.current_task()]
            for task in tasks:
                task.cancel()
            await asyncio.gather(*tasks, return_exceptions=True)

        asyncio.run_coroutine_threadsafe(end(), self._loop).result()
        self._loop.call_soon_threadsafe(self._loop.stop)
        self._thread.join(timeout=60)
        self._loop.close()


async def _carry(reader: asyncio.StreamReader, writer: asyncio.StreamWriter) -> None:
    with suppress(OSError):
        while block := await reader.read(65536):
            writer.write(block)
            await writer.drain()

"""Serves a made-up device by pymodbus: python3 pymodbusServer.py socket|rtu PORT (rtu: the frames of a serial line)."""
import asyncio
import struct
import sys

from pymodbus import FramerType
from pymodbus.datastore import ModbusDeviceContext, ModbusSequentialDataBlock, ModbusServerContext
from pymodbus.server import ModbusTcpServer


def words(value, swapped=False):
    high, low = struct.unpack(">HH", struct.pack(">f", value))
    return [low, high] if swapped else [high, low]


holding = [0] * 40
holding[0:2] = words(7.25)
holding[2:4] = words(24.5)
holding[20:22] = words(1.0, swapped=True)
holding[22] = 1000
inputs = [0] * 40
inputs[10:12] = words(-12.5, swapped=True)


async def serve(framer, port):
    # A block of pymodbus begins one before the first address that goes over the wire.
    device = ModbusDeviceContext(
        hr=ModbusSequentialDataBlock(1, holding),
        ir=ModbusSequentialDataBlock(1, inputs),
        co=ModbusSequentialDataBlock(1, [False] * 16),
        di=ModbusSequentialDataBlock(1, [False] * 16),
    )
    context = ModbusServerContext(devices={7: device}, single=False)
    server = ModbusTcpServer(context, framer=FramerType(framer), address=("127.0.0.1", port))
    await server.serve_forever(background=True)
    print("listening", flush=True)
    await asyncio.Event().wait()


asyncio.run(serve(sys.argv[1], int(sys.argv[2])))

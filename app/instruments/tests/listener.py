"""Hears streaming ACN as a receiver that was written elsewhere does: prints a line for every packet."""

import sys
import time

import sacn

port, universes, enough = int(sys.argv[1]), [int(word) for word in sys.argv[2].split(",")], int(sys.argv[3])
receiver = sacn.sACNreceiver(bind_address="127.0.0.1", bind_port=port)
seen = {universe: 0 for universe in universes}
ended = set()


def hear(universe):
    def heard(packet):
        seen[universe] += 1
        print("data", universe, packet.sequence, bytes(packet.dmxData).hex(), flush=True)

    return heard


def changed(universe, changed):
    if changed == "timeout":
        ended.add(universe)


for universe in universes:
    receiver.register_listener("universe", hear(universe), universe=universe)
receiver.register_listener("availability", changed)
receiver.start()
print("ready", flush=True)
until = time.monotonic() + 60
while (min(seen.values()) < enough or len(ended) < len(universes)) and time.monotonic() < until:
    if min(seen.values()) >= enough:
        print("enough", flush=True)
    time.sleep(0.05)
print("ended", ",".join(str(one) for one in sorted(ended)), flush=True)
receiver.stop()

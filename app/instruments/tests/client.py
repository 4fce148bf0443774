"""A client that nobody here wrote, PyVISA with its pure-Python backend, at the three instruments.

Prints one line of JSON for each thing that it read; the Rust test holds them against the core's own figures.
"""

import json
import sys

import pyvisa

meter_port, supply_port, charger_port, light, scene = sys.argv[1:]
manager = pyvisa.ResourceManager("@py")


def opened(port):
    instrument = manager.open_resource(f"TCPIP::127.0.0.1::{port}::SOCKET")
    instrument.read_termination = instrument.write_termination = "\n"
    instrument.timeout = 20_000
    return instrument


def say(what, value):
    print(json.dumps([what, value]), flush=True)


meter, supply, charger = opened(meter_port), opened(supply_port), opened(charger_port)
say("names", [one.query("*IDN?") for one in (meter, supply, charger)])

meter.write(f'BENCh:SCENe "{scene}"')
meter.write("SYSTem:SERial 7")
for red in ("source+", f"{light}:to+", f"{light}:from+"):
    meter.write(f'ROUTe:PROBes "{red}","source-"')
    say(f"volts {red}", float(meter.query("MEASure:VOLTage:DC?")))
meter.write(f'ROUTe:INSert "{light}:from+"')
say("amps in line", float(meter.query("MEASure:CURRent:DC?")))
meter.write("CALibration:ZERO")
meter.write('ROUTe:CLAMp "source"')
say("amps by clamp", float(meter.query("MEASure:CURRent:DC?")))

supply.write("BENCh:SOURce SUPPly")
supply.write("APPLy 12.0,0.05")
supply.write("OUTPut ON")
say("supply", [supply.query("OUTPut:MODE?"), float(supply.query("MEASure:VOLTage?")), float(supply.query("MEASure:CURRent?"))])
supply.write("CURRent 9")
say("supply at ease", [supply.query("OUTPut:MODE?"), float(supply.query("MEASure:VOLTage?")), float(supply.query("MEASure:CURRent?"))])
supply.write("OUTPut OFF")

meter.write("BENCh:SOURce OFF")
meter.write(f'ROUTe:PROBes "{light}:from+","{light}:from+"')
say("continuity", float(meter.query("MEASure:CONTinuity?")))
meter.write("BENCh:SOURce OWN")
meter.write('ROUTe:PROBes "source+","source-"')
say("live ohms", [float(meter.query("MEASure:RESistance?")), meter.query("SYSTem:ERRor?")])
say("across", [float(meter.query("MEASure:CURRent?")), meter.query("SYSTem:ERRor?"), meter.query("SYSTem:FUSE?")])
say("nonsense", [meter.query("NOISE;*OPC?"), meter.query("SYSTem:ERRor?"), meter.query("SYSTem:ERRor?")])

charger.write("BENCh:STATe half")
cells = int(charger.query("CELLs?"))
charger.write(f"CELLs {cells + 1}")
charger.write("OUTPut ON")
say("other cells", [charger.query("SYSTem:ERRor?"), charger.query("OUTPut?")])
charger.write(f"CELLs {cells}")
charger.write("OUTPut ON")
charger.write("TIMe:ADVance 3600")
say("an hour", [float(charger.query("CHARge?")), float(charger.query("CHARge:GIVen?")), charger.query("PHASe?")])
charger.write("TIMe:ADVance 36000")
say("ten more", [float(charger.query("CHARge?")), charger.query("PHASe?")])

//! The instruments through their sockets: the same figures as the core's, and nothing that a client sends stops them.

use orthavis_core::bench::desk::MILLIAMPS;
use orthavis_core::bench::fault::Fault;
use orthavis_core::bench::meter::{Serial, Setting};
use orthavis_core::bench::rig::Rig;
use orthavis_core::bench::spot::Spot;
use orthavis_core::document::{Build, Source};
use orthavis_instruments::{Bench, Instruments, Kind, OnBench};
use orthavis_testing::case;
use serde_json::Value;
use std::collections::BTreeMap;
use std::io::{BufRead, BufReader, Read, Write};
use std::net::{SocketAddr, TcpStream};
use std::path::Path;
use std::process::Command;
use std::sync::Arc;
use std::time::Duration;

const ANY: [(Kind, u16); 3] = [(Kind::Meter, 0), (Kind::Supply, 0), (Kind::Charger, 0)];

/// Three instruments with a build on the bench, on ports of their own.
struct Workbench {
    build: Arc<Build>,
    instruments: Instruments,
    _runtime: tokio::runtime::Runtime,
}

impl Workbench {
    fn with(build: Build) -> Self {
        let runtime = tokio::runtime::Builder::new_multi_thread().enable_all().build().expect("a runtime");
        let build = Arc::new(build);
        let bench = Bench::new(OnBench::of(build.clone()), 7);
        let instruments = runtime.block_on(Instruments::listen(bench, ANY)).expect("free ports");
        Workbench { build, instruments, _runtime: runtime }
    }

    fn address(&self, kind: Kind) -> SocketAddr {
        self.instruments.addresses.iter().find(|(known, _)| *known == kind).expect("listens").1
    }

    fn line(&self, kind: Kind) -> Line {
        let stream = TcpStream::connect(self.address(kind)).expect("takes a connection");
        stream.set_read_timeout(Some(Duration::from_secs(60))).expect("a socket");
        Line { from: BufReader::new(stream.try_clone().expect("a socket")), to: stream }
    }
}

struct Line {
    from: BufReader<TcpStream>,
    to: TcpStream,
}

impl Line {
    fn write(&mut self, line: &str) {
        self.to.write_all(format!("{line}\n").as_bytes()).expect("sent");
    }

    fn query(&mut self, line: &str) -> String {
        self.write(line);
        let mut answer = String::new();
        self.from.read_line(&mut answer).expect("an answer");
        answer.trim_end().to_owned()
    }

    fn number(&mut self, line: &str) -> f64 {
        let answer = self.query(line);
        answer.parse().unwrap_or_else(|_| panic!("{line}: {answer}"))
    }

    fn trouble(&mut self) -> i32 {
        let answer = self.query("SYST:ERR?");
        answer.split(',').next().and_then(|code| code.parse().ok()).unwrap_or_else(|| panic!("{answer}"))
    }
}

#[test]
fn the_meter_reads_what_the_core_says_at_every_point() {
    let desk = Workbench::with(case("trike-arrays"));
    let build = &*desk.build;
    let mut rig = Rig::new(build, &[]).expect("a rig");
    let shot = rig.shot(&build.scenes[0], build.states()[0]).expect("a steady state");
    let mut meter = desk.line(Kind::Meter);
    let points = meter.query("BENC:POIN?");
    let all = Spot::all(build);
    assert_eq!(points.split(',').count(), all.len());
    for spot in all {
        meter.write(&format!("ROUT:PROB \"{}\",\"source-\"", spot.name(build)));
        let (shown, ideal) = (meter.number("MEAS:VOLT?"), rig.potential(&shot, spot));
        // A reading is sent with seven digits.
        assert!((shown - Serial(7).shows(Setting::Volts, ideal)).abs() <= 1e-6 * ideal.abs() + 1e-9, "{}: {shown}, not {ideal}", spot.name(build));
    }
    assert_eq!(meter.trouble(), 0);
}

#[test]
fn what_goes_wrong_with_a_real_meter_goes_wrong_here() {
    let desk = Workbench::with(case("trike-arrays"));
    let light = desk.build.lights[0].id.clone();
    let mut meter = desk.line(Kind::Meter);
    // Nothing is anywhere yet.
    meter.write("READ?");
    assert_eq!(meter.trouble(), -221);
    // An in-line reading is a little less than without the meter, more so on milliamps.
    meter.write(&format!("ROUT:INS '{light}:from+'"));
    let (amps, milliamps) = (meter.number("MEAS:CURR?"), meter.number("MEAS:CURR? 0.4"));
    assert!(milliamps < amps && milliamps > 0.5 * amps && amps < MILLIAMPS.1, "{amps} {milliamps}");
    meter.write("MEAS:VOLT?");
    assert_eq!(meter.trouble(), -221);
    // A clamp that was not zeroed is off by the same everywhere.
    meter.write(&format!("ROUT:CLAM '{light}'"));
    let off = meter.number("MEAS:CURR?");
    meter.write("CAL:ZERO");
    let zeroed = meter.number("READ?");
    assert!((off - zeroed).abs() > 0.01 && (off - zeroed).abs() <= 0.3, "{off} {zeroed}");
    // Ohms on a live circuit, and with the power off.
    meter.write("ROUT:PROB 'source+','source-'");
    assert!(meter.number("MEAS:RES?") > 1000.0);
    assert_eq!(meter.trouble(), 103);
    meter.write("BENC:SOUR OFF");
    assert_eq!(meter.number("MEAS:VOLT?"), 0.0);
    meter.write(&format!("ROUT:PROB '{light}:from+','{light}:to+'"));
    assert!(meter.number("MEAS:CONT?") < 1.0);
    // The diode test in the LEDs' direction and against it.
    meter.write(&format!("ROUT:PROB '{light}:to+','{light}:to-'"));
    let forward = meter.number("MEAS:DIOD?");
    meter.write(&format!("ROUT:PROB '{light}:to-','{light}:to+'"));
    assert!(meter.number("MEAS:DIOD?") > 1e37 && forward > 1e37, "three LEDs in a row need more than a meter has");
    // Amps across the battery blow the fuse, and then there is nothing in line until it is replaced.
    meter.write("BENC:SOUR OWN;:ROUT:PROB 'source+','source-'");
    assert!(meter.number("MEAS:CURR?") > 1e37);
    assert_eq!(meter.trouble(), 101);
    assert_eq!(meter.query("SYST:FUSE?"), "BLOWN,GOOD");
    meter.write(&format!("ROUT:INS '{light}:from+'"));
    assert_eq!(meter.number("MEAS:CURR?"), 0.0);
    assert_eq!(meter.trouble(), 102);
    meter.write("SYST:FUSE:REPL");
    assert!((meter.number("MEAS:CURR?") - amps).abs() < 1e-9);
    // Faults are put in and taken out.
    meter.write(&format!("BENC:FAUL 'open@{light}:to+'"));
    assert!(meter.number("READ?") < 1e-3);
    assert_eq!(meter.query("BENC:FAUL?"), format!("\"open@{light}:to+\""));
    meter.write("BENC:FAUL:CLE");
    assert!((meter.number("READ?") - amps).abs() < 1e-9);
    for (line, code) in [
        ("BENC:SCEN 'never'", -224),
        ("BENC:STAT banana", -224),
        ("BENC:FAUL 'open@nowhere'", -224),
        ("ROUT:PROB 'source+'", -109),
        ("ROUT:PROB 'nowhere','source-'", -224),
        ("ROUT:INS 'source-'", -221),
        ("CONF:VOLT 1,2", -108),
        ("SYST:SER -1", -222),
        ("OUTP ON", -113),
        ("VOLT 3 furlongs", -131),
    ] {
        meter.write(line);
        assert_eq!(meter.trouble(), code, "{line}");
    }
}

#[test]
fn an_edit_of_the_build_leaves_the_probes_where_they_still_have_a_place() {
    let desk = Workbench::with(case("trike-arrays"));
    let light = desk.build.lights[0].id.clone();
    let mut meter = desk.line(Kind::Meter);
    meter.write(&format!("ROUT:PROB '{light}:to+','source-'"));
    let before = meter.number("MEAS:VOLT?");
    let mut edited = (*desk.build).clone();
    *edited.converters[0].conversion.setting_mut() += 0.5;
    desk.instruments.with(|bench| bench.put(OnBench::of(Arc::new(edited.clone()))));
    assert!(meter.number("READ?") > before + 0.3);
    edited.lights.remove(0);
    desk.instruments.with(|bench| bench.put(OnBench::of(Arc::new(edited))));
    meter.write("READ?");
    assert_eq!(meter.trouble(), -221);
}

#[test]
fn a_supply_holds_its_voltage_and_its_limit() {
    let desk = Workbench::with(case("van-strips"));
    let mut supply = desk.line(Kind::Supply);
    let own = desk.build.thevenin(desk.build.states()[0]).0;
    // Not connected it shows its voltage and gives nothing.
    supply.write(&format!("APPL {own:.2},5;:OUTP ON"));
    assert_eq!((supply.number("MEAS:CURR?"), supply.query("OUTP:MODE?").as_str()), (0.0, "CV"));
    supply.write("BENC:SOUR SUPP");
    let free = supply.number("MEAS:CURR?");
    assert!(free > 0.0 && (supply.number("MEAS:VOLT?") - own).abs() < 0.01 && supply.query("OUTP:MODE?") == "CV");
    supply.write(&format!("CURR {}", 0.4 * free));
    let (volts, amps) = (supply.number("MEAS:VOLT?"), supply.number("MEAS:CURR?"));
    assert_eq!(supply.query("OUTP:MODE?"), "CC");
    // A part that starts in between keeps it below its limit.
    assert!(amps <= 0.4 * free * 1.000_001 && amps > 0.1 * free && volts < own, "{volts} V, {amps} A");
    // A converter takes more the less it is given: held to less than that, it does not start at all.
    let trike = Workbench::with(case("trike-arrays"));
    let mut weak = trike.line(Kind::Supply);
    weak.write("BENC:SOUR SUPP;:APPL 36,9;:OUTP ON");
    let needs = weak.number("MEAS:CURR?");
    weak.write(&format!("CURR {}", 0.5 * needs));
    assert_eq!((weak.number("MEAS:CURR?"), weak.query("OUTP:MODE?").as_str()), (0.0, "CC"));
    supply.write("OUTP OFF");
    assert_eq!((supply.number("MEAS:VOLT?"), supply.query("OUTP:MODE?").as_str()), (0.0, "OFF"));
    supply.write("VOLT 600");
    assert_eq!(supply.trouble(), -222);
}

#[test]
fn a_charger_fills_the_battery_and_refuses_what_does_not_fit() {
    let desk = Workbench::with(case("trike-arrays"));
    let Source::Battery(battery) = &desk.build.source else { panic!("a battery") };
    let mut charger = desk.line(Kind::Charger);
    charger.write("BENC:STAT reserve;:TIM:SPE 0");
    assert!((charger.number("CHAR?") - battery.reserve_soc()).abs() < 1e-6);
    charger.write(&format!("CELL {};:OUTP ON", battery.series - 1));
    assert_eq!((charger.trouble(), charger.query("OUTP?").as_str(), charger.query("PHAS?").as_str()), (202, "0", "FAULT"));
    charger.write(&format!("CELL {};:CURR {};:OUTP ON", battery.series, 0.2 * battery.capacity_ah));
    assert_eq!(charger.trouble(), 0);
    let mut last = (0.0, 0.0);
    for _ in 0..24 {
        charger.write("TIM:ADV 1800");
        let (volts, amps) = (charger.number("MEAS:VOLT?"), charger.number("MEAS:CURR?"));
        match charger.query("PHAS?").as_str() {
            "CC" => assert!((amps - 0.2 * battery.capacity_ah).abs() < 1e-6 && volts >= last.0),
            "CV" => assert!((volts - battery.charging_v().expect("rechargeable")).abs() < 1e-4 && amps > 0.0),
            "DONE" => assert_eq!(amps, 0.0),
            other => panic!("{other}"),
        }
        last = (volts, amps);
    }
    assert_eq!(charger.query("PHAS?"), "DONE");
    // What went in is what the battery holds more.
    let (charge, given) = (charger.number("CHAR?"), charger.number("CHAR:GIV?"));
    assert!(charge > 0.95 && ((charge - battery.reserve_soc()) * battery.capacity_ah - given).abs() < 1e-4 * given);
    let rail = Workbench::with(case("hex-rail"));
    let mut charger = rail.line(Kind::Charger);
    charger.write("OUTP ON");
    assert_eq!(charger.trouble(), -221);
}

#[test]
fn garbage_half_lines_long_lines_and_many_at_once_neither_stop_nor_slow_it() {
    let desk = Workbench::with(case("trike-arrays"));
    let mut meter = desk.line(Kind::Meter);
    meter.write("ROUT:PROB 'source+','source-'");
    let volts = meter.number("MEAS:VOLT?");
    // Bytes that are no text; a line of a megabyte; a line that never ends; somebody who sends and does not listen.
    let mut rude: Vec<Line> = (0..4).map(|_| desk.line(Kind::Meter)).collect();
    rude[0].to.write_all(&(0..=255u8).cycle().take(20_000).collect::<Vec<_>>()).expect("sent");
    rude[0].to.write_all(b"\n").expect("sent");
    rude[1].to.write_all(&vec![b'A'; 1 << 20]).expect("sent");
    rude[1].to.write_all(b"\n").expect("sent");
    rude[2].to.write_all(b"MEAS:VOLT").expect("sent");
    rude[3].to.write_all("*IDN?\n".repeat(200).as_bytes()).expect("sent");
    assert_eq!(rude[1].trouble(), -363);
    assert_eq!(rude[1].query("*OPC?"), "1");
    // Ten at a time five times over, each with its own queue of troubles.
    let many: Vec<_> = (0..50)
        .map(|number| {
            let mut line = desk.line(Kind::Meter);
            std::thread::spawn(move || {
                line.write(if number % 2 == 0 { "NOISE" } else { "*CLS" });
                (number, line.number("READ?"), line.trouble())
            })
        })
        .collect();
    for one in many {
        let (number, shown, trouble) = one.join().expect("answered");
        assert_eq!((shown.to_bits(), trouble), (volts.to_bits(), if number % 2 == 0 { -113 } else { 0 }));
    }
    // The half line is done once its end comes, and who hangs up is gone.
    rude[2].to.write_all(b"?\n").expect("sent");
    let mut answer = String::new();
    rude[2].from.read_line(&mut answer).expect("an answer");
    assert_eq!(answer.trim().parse::<f64>().expect("a number").to_bits(), volts.to_bits());
    drop(rude.remove(3));
    assert_eq!(meter.number("READ?").to_bits(), volts.to_bits());
    for _ in 0..30 {
        meter.write("NOISE");
    }
    let mut codes = Vec::new();
    while let code @ ..=-1 = meter.trouble() {
        codes.push(code);
    }
    assert_eq!((codes.len(), codes.last()), (20, Some(&-350)));
    let mut rest = Vec::new();
    meter.to.shutdown(std::net::Shutdown::Write).expect("a socket");
    meter.from.read_to_end(&mut rest).expect("the end");
    assert!(rest.is_empty());
}

#[test]
fn a_client_that_nobody_here_wrote_meets_the_same_figures() {
    let root = Path::new(env!("CARGO_MANIFEST_DIR")).join("../..");
    let python = root.join("target/python/bin/python");
    assert!(python.exists(), "run `cargo xtask test`, which installs what the tests need");
    let desk = Workbench::with(case("van-strips"));
    let (build, scene) = (&*desk.build, &desk.build.scenes[0]);
    let lit = build.lights.iter().position(|light| scene.lights.contains_key(&light.id)).expect("a light that is on");
    let light = build.lights[lit].id.clone();
    let port = |kind: Kind| desk.address(kind).port().to_string();
    let done = Command::new(python)
        .arg(root.join("app/instruments/tests/client.py"))
        .args([port(Kind::Meter), port(Kind::Supply), port(Kind::Charger), light.clone(), scene.id.clone()])
        .output()
        .expect("python runs");
    assert!(done.status.success(), "{}{}", String::from_utf8_lossy(&done.stdout), String::from_utf8_lossy(&done.stderr));
    let said: BTreeMap<String, Value> =
        String::from_utf8_lossy(&done.stdout).lines().map(|line| serde_json::from_str::<(String, Value)>(line).expect("a line of JSON")).collect();
    let number = |what: &str| said[what].as_f64().unwrap_or_else(|| panic!("{what}: {}", said[what]));
    for (index, name) in ["METER,7", "SUPPLY,1", "CHARGER,1"].iter().enumerate() {
        assert!(said["names"][index].as_str().is_some_and(|text| text.starts_with(&format!("ORTHAVIS,{name},"))), "{}", said["names"]);
    }
    let mut rig = Rig::new(build, &[]).expect("a rig");
    let shot = rig.shot(scene, build.states()[0]).expect("a steady state");
    for red in ["source+".to_owned(), format!("{light}:to+"), format!("{light}:from+")] {
        let ideal = rig.potential(&shot, Spot::parse(build, &red).expect("a point"));
        assert!((number(&format!("volts {red}")) - Serial(7).shows(Setting::Volts, ideal)).abs() < 1e-4, "{red}: {ideal}");
    }
    // In line the meter itself is in the way.
    let feed = build.feeds().iter().position(|feed| feed.id == light).expect("a feed");
    let meter = Fault::parse(build, &format!("weak_joint@{light}:from+=0.01")).expect("a fault");
    let mut with_meter = Rig::new(build, &[meter]).expect("a rig");
    let there = with_meter.shot(scene, build.states()[0]).expect("a steady state");
    let amps = with_meter.amps(&there, feed);
    assert!((number("amps in line") - amps).abs() <= 2.0 * Setting::Amps.error(amps), "{amps}");
    let all = rig.source(&shot).1;
    assert!((number("amps by clamp") - all).abs() <= Setting::Clamp.error(all) + 0.01, "{all}");
    let supply = &said["supply"];
    assert!(supply[0] == "CC" && supply[2].as_f64().is_some_and(|amps| amps <= 0.050_001), "{supply}");
    let supply = &said["supply at ease"];
    assert!(supply[0] == "CV" && supply[1].as_f64().is_some_and(|volts| (volts - 12.0).abs() < 1e-4), "{supply}");
    assert!(number("continuity") < 1.0);
    assert!(said["live ohms"][1].as_str().is_some_and(|text| text.starts_with("103,")), "{}", said["live ohms"]);
    assert_eq!((said["across"][0].as_f64(), said["across"][2].as_str()), (Some(9.9e37), Some("BLOWN,GOOD")));
    assert_eq!(said["nonsense"][0], "1");
    assert!(said["nonsense"][1].as_str().is_some_and(|text| text.starts_with("-113,")) && said["nonsense"][2] == "0,\"No error\"", "{}", said["nonsense"]);
    assert!(said["other cells"][0].as_str().is_some_and(|text| text.starts_with("202,")) && said["other cells"][1] == "0", "{}", said["other cells"]);
    let hour = &said["an hour"];
    assert!((hour[0].as_f64().unwrap_or(0.0) - 0.7).abs() < 0.002 && hour[2] == "CC", "a fifth of the capacity in an hour: {hour}");
    assert!(said["ten more"][1] == "DONE" && said["ten more"][0].as_f64().is_some_and(|charge| charge > 0.95), "{}", said["ten more"]);
}

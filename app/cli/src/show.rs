//! Shows, from the command line: frames, what they take, files for a board, and playing over E1.31.

use crate::out::{Document, End, Failure, Out, Outcome, flush, folder, print, write};
use clap::Subcommand;
use orthavis_core::pixels_over_time::{Frame, Show};
use orthavis_core::practice::MOST_FLASHES;
use orthavis_core::show::power::ShowPower;
use orthavis_core::show::source::source;
use orthavis_core::working::plain;
use orthavis_instruments::sacn::{Controller, Heard, PLAYER_HZ, PORT, Player, Script};
use orthavis_operations::show::{self as ask, FrameCodes, Says, ShowRequest, ShowView};
use serde::Serialize;
use serde_json::json;
use std::collections::BTreeMap;
use std::path::{Path, PathBuf};
use std::sync::Arc;
use std::time::{Duration, Instant};

/// Frames that are timed for the head of a C file.
const TIMED: u32 = 200;

#[derive(Subcommand)]
#[command(defer = true)]
pub enum Shows {
    /// Print what a scene's pixels show, what they take, or write it as C
    Show {
        /// A build document (orthavis.build/1); `-` reads standard input
        file: PathBuf,
        /// Scene id [default: the first]
        #[arg(long)]
        scene: Option<String>,
        /// Moments, s, as in 0,0.25,1.5
        #[arg(long, value_delimiter = ',', conflicts_with = "seconds")]
        times: Vec<f64>,
        /// From the begin on, fifty frames a second
        #[arg(long)]
        seconds: Option<f64>,
        /// What an input says, as in `battery=0.4` or `turn=left`; may be repeated
        #[arg(long, value_name = "INPUT=SAYS")]
        input: Vec<String>,
        /// Print a table of frames (RFC 4180)
        #[arg(long)]
        csv: bool,
        /// Print the worst frame, the mean and the rule of thumb at the supply of each controller, as JSON
        #[arg(long)]
        power: bool,
        /// Print where each number is: light, piece, place, spot (RFC 4180)
        #[arg(long)]
        map: bool,
        /// Write show.c and show.h into this folder; made if missing
        #[arg(long, value_name = "DIR")]
        c: Option<PathBuf>,
    },
    /// Play a scene over E1.31 to a controller on this machine until Ctrl-C
    Play {
        /// A build document (orthavis.build/1); `-` reads standard input
        file: PathBuf,
        /// Scene id [default: the first]
        #[arg(long)]
        scene: Option<String>,
        /// For so long, s [default: until Ctrl-C]
        #[arg(long)]
        seconds: Option<f64>,
        /// What an input says, as in `battery=0.4` or `turn=left`; may be repeated
        #[arg(long, value_name = "INPUT=SAYS")]
        input: Vec<String>,
        /// Port that the controller listens at
        #[arg(long, default_value_t = PORT)]
        port: u16,
    },
    /// A simulated pixel controller: hears E1.31 on this machine and prints what it got
    ///
    /// A line a second for each universe: packets a second, lost and late ones, and its first pixels. Stop with Ctrl-C.
    Controller {
        /// Port to listen at; 0 takes any free one
        #[arg(long, default_value_t = PORT)]
        port: u16,
        /// End after so long, s [default: until Ctrl-C]
        #[arg(long)]
        seconds: Option<f64>,
    },
}

/// Frames a second of `--seconds`.
const FRAMES_HZ: f64 = 50.0;
/// Seconds at most.
const MOST_S: f64 = 80.0;

/// Inputs as written: by name, a share or a word.
fn inputs(written: &[String]) -> Result<BTreeMap<String, Says>, Failure> {
    let says = |one: &String| {
        let (name, says) = one.split_once('=').ok_or_else(|| format!("`{one}` says nothing of an input; write it as `battery=0.4`"))?;
        let says = says.trim();
        Ok((name.trim().to_owned(), says.parse().map_or_else(|_| Says::Word(says.to_owned()), Says::Share)))
    };
    written.iter().map(says).collect()
}

/// Frames, what they take, or both.
#[derive(Serialize)]
struct Told {
    #[serde(skip_serializing_if = "Option::is_none")]
    frames: Option<Vec<FrameCodes>>,
    #[serde(flatten)]
    power: Option<ShowPower>,
}

pub fn run(show: &Shows, out: Out) -> Outcome {
    match show {
        Shows::Show { .. } => crate::counted(|| told(show, out)),
        _ => play(show, out),
    }
}

fn told(show: &Shows, out: Out) -> Outcome {
    let Shows::Show { file, scene, times, seconds, input, csv, power, map, c } = show else {
        return Err("it is played elsewhere".into());
    };
    let document = Document::read(file)?;
    let scene = document.scene(scene.as_ref())?;
    if let Some(folder) = c {
        return write_c(&document, &scene, folder, out);
    }
    if *map {
        return out.text(&ask::as_map(document.alone()?)?);
    }
    let (times_s, frames) = match seconds {
        Some(seconds) if !(*seconds > 0.0 && *seconds <= MOST_S) => {
            return Err(format!("--seconds {seconds} cannot be printed; give up to {MOST_S}").into());
        }
        Some(seconds) => (None, (seconds * FRAMES_HZ).ceil() as usize),
        None => (Some(times.clone()).filter(|times| !times.is_empty()), 1),
    };
    let said = inputs(input)?;
    let request = |times_s: Option<Vec<f64>>, frames: usize| -> Result<ShowRequest, Failure> {
        Ok(ShowRequest {
            document: document.raw()?,
            scene: scene.clone(),
            inputs: said.clone(),
            from_s: 0.0,
            step_s: 1.0 / FRAMES_HZ,
            frames,
            times_s,
            delivered: false,
        })
    };
    let framed = times_s.is_some() || seconds.is_some();
    if *csv {
        return out.text(&ask::as_csv(request(times_s, frames)?)?);
    }
    if !framed && !*power && !out.json {
        let view = ask::view(request(None, 1)?)?;
        return out.put(&view, || summary(&view));
    }
    let wanted = framed || !*power;
    let told = Told {
        frames: if wanted { Some(ask::exported(request(times_s, frames)?)?.frames) } else { None },
        power: if *power { Some(ask::view(request(None, 1)?)?.power) } else { None },
    };
    Out { json: true }.put(&told, String::new)
}

/// A show in a few lines.
fn summary(view: &ShowView) -> String {
    let mut out = String::new();
    for chain in &view.chains {
        out += &format!("{}: {} pixels\n", chain.output, chain.count);
        for piece in &chain.pieces {
            let way = if piece.against { ", data from its far end" } else { "" };
            let copy = if piece.copy { ", a copy" } else { "" };
            out += &format!("  {:>4} to {:<4} {}{way}{copy}\n", piece.first, piece.last, piece.light);
        }
    }
    for supply in &view.power.supplies {
        out += &format!(
            "{}: worst {} at {:.2} s, mean {}, by rule of thumb {}\n",
            supply.controller.as_ref().unwrap_or(&supply.supply),
            plain(supply.worst.current_a, "A"),
            supply.worst.t_s,
            plain(supply.mean_a, "A"),
            plain(supply.rule_of_thumb_a, "A")
        );
    }
    for fits in &view.fits {
        if let [white, show, limited, ..] = fits.facts.as_slice() {
            out += &format!(
                "{} would feed {:.0} pixels full and white, {:.0} in this show, {:.0} with a limit\n",
                fits.supply, white.value, show.value, limited.value
            );
        }
    }
    for flashes in view.flashes.iter().filter(|one| one.a_second as f64 > MOST_FLASHES) {
        out += &format!("{} flashes {} times within a second: more than anybody is to be shown\n", flashes.light, flashes.a_second);
    }
    out
}

fn write_c(document: &Document, scene: &str, to: &Path, out: Out) -> Outcome {
    let build = &document.build;
    let scene = build.scenes.iter().find(|known| known.id == scene).ok_or_else(|| format!("`{scene}` is not a scene of this build. Name one of its own."))?;
    let show = Show::of(build, scene);
    let mut frame = Frame::default();
    let begun = Instant::now();
    for step in 0..TIMED {
        show.frame_into(f64::from(step) * 0.02, &orthavis_core::effects::Inputs::default(), &mut frame);
    }
    let made = source(build, scene, Some(1e6 * begun.elapsed().as_secs_f64() / f64::from(TIMED)));
    folder(to)?;
    let files = [to.join("show.h"), to.join("show.c")];
    for (path, text) in files.iter().zip([&made.header, &made.body]) {
        write(path, text)?;
    }
    out.put(&json!({ "files": files }), || files.iter().map(|path| format!("{}\n", path.display())).collect())
}

fn runtime() -> Result<tokio::runtime::Runtime, Failure> {
    tokio::runtime::Builder::new_multi_thread().enable_all().build().map_err(|error| error.to_string().into())
}

/// Until so long is over, or Ctrl-C.
async fn until(seconds: Option<f64>) {
    let over = async {
        match seconds {
            Some(seconds) => tokio::time::sleep(Duration::from_secs_f64(seconds.clamp(0.0, 1e6))).await,
            None => std::future::pending().await,
        }
    };
    tokio::select! { () = over => {}, _ = tokio::signal::ctrl_c() => {} }
}

fn play(show: &Shows, out: Out) -> Outcome {
    let _written_until_the_end = crate::serve::log();
    match show {
        Shows::Show { .. } => told(show, out),
        Shows::Play { file, scene, seconds, input, port } => {
            let document = Document::read(file)?;
            let scene = document.scene(scene.as_ref())?;
            let build = document.build;
            let known =
                build.scenes.iter().find(|one| one.id == scene).ok_or_else(|| format!("`{scene}` is not a scene of this build. Name one of its own."))?;
            let inputs = ask::inputs(&inputs(input)?)?;
            // Nobody is shown more than three flashes a second.
            let speed = orthavis_core::show::play::most_speed(&build, known).min(1.0);
            let name = known.name.clone();
            let script = Script { build: Arc::new(build), scene, inputs, speed, from_s: 0.0 };
            runtime()?.block_on(async {
                let player = Player::start(script, ([127, 0, 0, 1], *port).into()).await.map_err(|error| error.to_string())?;
                out.put(&json!({ "scene": name, "port": port, "speed": speed, "frames_a_second": PLAYER_HZ }), || {
                    let slowed = format!("slowed down to {:.0} % of its speed: it flashes more than three times a second\n", 100.0 * speed);
                    let slowed = if speed < 1.0 { slowed } else { String::new() };
                    format!("{slowed}playing {name} to 127.0.0.1:{port}, {PLAYER_HZ} frames a second\n")
                })?;
                until(*seconds).await;
                let frames = player.stop().await.map_err(|error| error.to_string())?;
                out.put(&json!({ "frames": frames }), || format!("{frames} frames\n"))
            })
        }
        Shows::Controller { port, seconds } => runtime()?.block_on(async {
            let controller = Controller::listen(*port).await.map_err(|error| format!("{error}. Choose another with --port."))?;
            out.put(&json!({ "address": controller.address.to_string() }), || format!("listening at {}\n", controller.address))?;
            let mut ticks = tokio::time::interval(Duration::from_secs(1));
            ticks.tick().await;
            let over = until(*seconds);
            tokio::pin!(over);
            loop {
                tokio::select! {
                    _ = ticks.tick() => heard(&controller.heard(), out)?,
                    () = &mut over => break,
                }
            }
            heard(&controller.heard(), out)?;
            Ok(End::Fine)
        }),
    }
}

/// One line a second for each universe; whoever pipes this reads along.
fn heard(heard: &Heard, out: Out) -> Result<(), Failure> {
    for one in &heard.universes {
        let who = one.sender.as_deref();
        if out.json {
            let told = json!({ "universe": one.universe, "sender": who, "a_second": one.a_second, "received": one.received, "lost": one.lost, "late": one.late, "channels": one.channels });
            print(&format!("{told}\n"))?;
            continue;
        }
        let first: String = one.channels.chunks(3).take(8).map(|code| code.iter().map(|channel| format!("{channel:02x}")).collect::<String>() + " ").collect();
        print(&format!(
            "universe {}: {}, {} a second, {} in all, {} lost, {} late  {first}\n",
            one.universe,
            who.unwrap_or("at rest"),
            one.a_second,
            one.received,
            one.lost,
            one.late
        ))?;
    }
    if heard.malformed > 0 && !out.json {
        print(&format!("{} packets were none\n", heard.malformed))?;
    }
    flush()
}

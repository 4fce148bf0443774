//! Shows, from the command line: frames, what they take, files for a board, and playing over E1.31.

use crate::bench::{At, asked, document, scene};
use crate::make::text_of;
use crate::{print, read_text};
use clap::Subcommand;
use orthavis_core::document::parse;
use orthavis_core::pixels_over_time::{Frame, Show};
use orthavis_core::show::source::source;
use orthavis_instruments::sacn::{Controller, PLAYER_HZ, PORT, Player, Script};
use serde_json::{Map, Value, json};
use std::io::Write;
use std::path::{Path, PathBuf};
use std::process::ExitCode;
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
        /// Print JSON: codes by number on each data output
        #[arg(long, conflicts_with = "csv")]
        json: bool,
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

/// Inputs as written: by name, a share or a word.
fn inputs(written: &[String]) -> Result<Map<String, Value>, String> {
    let mut said = Map::new();
    for one in written {
        let (name, says) = one.split_once('=').ok_or_else(|| format!("`{one}` says nothing of an input; write it as `battery=0.4`"))?;
        let says = says.trim();
        said.insert(name.trim().to_owned(), says.parse::<f64>().map_or_else(|_| json!(says), |share| json!(share)));
    }
    Ok(said)
}

pub fn run(show: &Shows) -> Result<ExitCode, String> {
    let Shows::Show { file, scene: named, times, seconds, input, json, csv, power, map, c } = show else {
        return Err("it is played elsewhere".into());
    };
    let document = document(file)?;
    let scene = scene(&document, &At::scene(named.clone()))?;
    let mut request = json!({ "document": document, "scene": scene, "inputs": inputs(input)? });
    if let Some(folder) = c {
        return write_c(&document, &scene, folder);
    }
    if *map {
        return print(&text_of("show/map", &json!({ "document": document }))?).map(|()| ExitCode::SUCCESS);
    }
    if !times.is_empty() {
        request["times_s"] = json!(times);
    } else if let Some(seconds) = seconds {
        if !(*seconds > 0.0 && *seconds <= 80.0) {
            return Err(format!("--seconds {seconds} cannot be printed; give up to 80"));
        }
        (request["step_s"], request["frames"]) = (json!(0.02), json!((seconds / 0.02).ceil() as u64));
    }
    let framed = !times.is_empty() || seconds.is_some();
    if *csv {
        return print(&text_of("show/csv", &request)?).map(|()| ExitCode::SUCCESS);
    }
    let mut told = Map::new();
    if *json || (framed && !*power) {
        let whole: Value = serde_json::from_str(&text_of("show/json", &request)?).map_err(|error| error.to_string())?;
        told.insert("frames".into(), whole["frames"].clone());
    }
    if *power {
        request["frames"] = json!(1);
        request["times_s"] = Value::Null;
        let found = asked("show", &request)?;
        told.extend(found["power"].as_object().cloned().unwrap_or_default());
    }
    if !told.is_empty() {
        return crate::make::told(&Value::Object(told));
    }
    print(&summary(&asked("show", &request)?)).map(|()| ExitCode::SUCCESS)
}

/// A show in a few lines.
fn summary(found: &Value) -> String {
    let mut out = String::new();
    let list = |value: &Value| value.as_array().cloned().unwrap_or_default();
    let number = |value: &Value| value.as_f64().unwrap_or(0.0);
    for chain in list(&found["chains"]) {
        out += &format!("{}: {} pixels\n", chain["output"].as_str().unwrap_or_default(), number(&chain["count"]));
        for piece in list(&chain["pieces"]) {
            let way = if piece["against"] == true { ", data from its far end" } else { "" };
            let copy = if piece["copy"] == true { ", a copy" } else { "" };
            out += &format!("  {:>4} to {:<4} {}{way}{copy}\n", number(&piece["first"]), number(&piece["last"]), piece["light"].as_str().unwrap_or_default());
        }
    }
    for supply in list(&found["power"]["supplies"]) {
        out += &format!(
            "{}: worst {:.3} A at {:.2} s, mean {:.3} A, by rule of thumb {:.3} A\n",
            supply["controller"].as_str().or(supply["supply"].as_str()).unwrap_or_default(),
            number(&supply["worst"]["current_a"]),
            number(&supply["worst"]["t_s"]),
            number(&supply["mean_a"]),
            number(&supply["rule_of_thumb_a"])
        );
    }
    for fits in list(&found["fits"]) {
        let counts: Vec<String> = list(&fits["facts"]).iter().take(3).map(|fact| format!("{:.0}", number(&fact["value"]))).collect();
        out += &format!(
            "{} would feed {} pixels full and white, {} in this show, {} with a limit\n",
            fits["supply"].as_str().unwrap_or_default(),
            counts[0],
            counts[1],
            counts[2]
        );
    }
    for flashes in list(&found["flashes"]).iter().filter(|one| number(&one["a_second"]) > 3.0) {
        out += &format!(
            "{} flashes {:.0} times within a second: more than anybody is to be shown\n",
            flashes["light"].as_str().unwrap_or_default(),
            number(&flashes["a_second"])
        );
    }
    out
}

fn write_c(document: &Value, scene: &str, folder: &Path) -> Result<ExitCode, String> {
    let build = orthavis_core::document::parse_value(document).map_err(|error| error.to_string())?;
    let scene = build.scenes.iter().find(|known| known.id == scene).ok_or("there is no such scene")?;
    let show = Show::of(&build, scene);
    let mut frame = Frame::default();
    let begun = Instant::now();
    for step in 0..TIMED {
        show.frame_into(f64::from(step) * 0.02, &orthavis_core::effects::Inputs::default(), &mut frame);
    }
    let made = source(&build, scene, Some(1e6 * begun.elapsed().as_secs_f64() / f64::from(TIMED)));
    std::fs::create_dir_all(folder).map_err(|error| format!("{}: {error}", folder.display()))?;
    for (name, text) in [("show.h", &made.header), ("show.c", &made.body)] {
        let path = folder.join(name);
        std::fs::write(&path, text).map_err(|error| format!("{}: {error}. Give a folder that can be written to.", path.display()))?;
        print(&format!("{}\n", path.display()))?;
    }
    Ok(ExitCode::SUCCESS)
}

fn runtime() -> Result<tokio::runtime::Runtime, String> {
    tokio::runtime::Builder::new_multi_thread().enable_all().build().map_err(|error| error.to_string())
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

pub fn play(show: &Shows) -> Result<ExitCode, String> {
    let _written_until_the_end = crate::log();
    match show {
        Shows::Show { .. } => run(show),
        Shows::Play { file, scene: named, seconds, input, port } => {
            let build = parse(&read_text(file)?).map_err(|error| format!("{} cannot be used:\n{error}", file.display()))?;
            let scene = named.clone().or_else(|| build.scenes.first().map(|scene| scene.id.clone())).unwrap_or_default();
            let known = build.scenes.iter().find(|one| one.id == scene).ok_or_else(|| format!("`{scene}` is no scene of this build. Name one of its own."))?;
            let said = serde_json::from_value(Value::Object(inputs(input)?)).map_err(|error| error.to_string())?;
            let inputs = orthavis_operations::show::inputs(&said).map_err(|refusal| refusal.detail)?;
            // Nobody is shown more than three flashes a second.
            let speed = orthavis_core::show::play::most_speed(&build, known).min(1.0);
            let name = known.name.clone();
            if speed < 1.0 {
                print(&format!("slowed down to {:.0} % of its speed: it flashes more than three times a second\n", 100.0 * speed))?;
            }
            let script = Script { build: Arc::new(build), scene, inputs, speed, from_s: 0.0 };
            runtime()?.block_on(async {
                let player = Player::start(script, ([127, 0, 0, 1], *port).into()).await.map_err(|error| error.to_string())?;
                print(&format!("playing {name} to 127.0.0.1:{port}, {PLAYER_HZ} frames a second\n"))?;
                until(*seconds).await;
                let frames = player.stop().await.map_err(|error| error.to_string())?;
                print(&format!("{frames} frames\n")).map(|()| ExitCode::SUCCESS)
            })
        }
        Shows::Controller { port, seconds } => runtime()?.block_on(async {
            let controller = Controller::listen(*port).await.map_err(|error| format!("{error}. Choose another with --port."))?;
            print(&format!("listening at {}\n", controller.address))?;
            let mut ticks = tokio::time::interval(Duration::from_secs(1));
            ticks.tick().await;
            let over = until(*seconds);
            tokio::pin!(over);
            loop {
                tokio::select! {
                    _ = ticks.tick() => print(&heard(&controller))?,
                    () = &mut over => break,
                }
            }
            print(&heard(&controller)).map(|()| ExitCode::SUCCESS)
        }),
    }
}

fn heard(controller: &Controller) -> String {
    let heard = controller.heard();
    let mut out = String::new();
    for one in &heard.universes {
        let first: String = one.channels.chunks(3).take(8).map(|code| code.iter().map(|channel| format!("{channel:02x}")).collect::<String>() + " ").collect();
        let who = one.sender.as_deref().unwrap_or("at rest");
        out +=
            &format!("universe {}: {who}, {} a second, {} in all, {} lost, {} late  {first}\n", one.universe, one.a_second, one.received, one.lost, one.late);
    }
    if heard.malformed > 0 {
        out += &format!("{} packets were none\n", heard.malformed);
    }
    // Whoever pipes this reads along.
    let _ = std::io::stdout().flush();
    out
}

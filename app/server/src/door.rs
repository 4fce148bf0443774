//! The door to the local network: codes that let one device in, once, for a few minutes.

use qrcode::QrCode;
use qrcode::render::unicode::Dense1x2;
use std::net::{IpAddr, Ipv4Addr, SocketAddr};
use std::sync::{Arc, Mutex, MutexGuard, PoisonError};
use std::time::{Duration, Instant};
use tokio::net::TcpListener;
use tokio::sync::watch;

/// How long a code is good.
pub const GOOD_FOR: Duration = Duration::from_secs(5 * 60);
/// How long the door stays closed after too many wrong codes.
pub const CLOSED_FOR: Duration = Duration::from_secs(60);
/// Wrong codes that close it.
const WRONG: u32 = 5;
/// Characters of a code: none that reads like another.
const ALPHABET: &[u8; 32] = b"23456789ABCDEFGHJKLMNPQRSTUVWXYZ";
/// Characters in a code. At five tries a minute a guess within its life is one in 40 million.
const LENGTH: usize = 6;

/// What the door says to a code.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Knock {
    /// Come in; the code is spent.
    In,
    /// Not the code, or not any more.
    Wrong,
    /// Too many wrong ones: closed for so long.
    Closed(Duration),
}

#[derive(Default)]
struct State {
    code: Option<(String, Instant)>,
    wrong: u32,
    closed_until: Option<Instant>,
}

/// What is shown to let a device in.
pub struct Invitation {
    /// What to open there.
    pub address: String,
    /// What to type where there is no camera.
    pub code: String,
    /// The address as a picture for a terminal.
    pub picture: String,
}

/// The addresses of this machine on private networks (RFC 1918), in the order in which the system names them.
///
/// # Errors
/// When the system does not tell.
pub fn private_addresses() -> std::io::Result<Vec<IpAddr>> {
    let all = if_addrs::get_if_addrs()?.into_iter().map(|interface| interface.ip());
    Ok(all.filter(|address| matches!(address, IpAddr::V4(address) if address.is_private())).collect())
}

/// Why the door could not be opened.
#[derive(Debug)]
pub enum Shut {
    /// The system does not tell this machine's addresses.
    Unknown(std::io::Error),
    /// It has none on a local network.
    NoNetwork,
    /// One that is not on a local network: every address at once, or this machine alone.
    NotLocal(IpAddr),
    /// One that could not be listened on.
    Taken(SocketAddr, std::io::Error),
}

impl std::fmt::Display for Shut {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        match self {
            Shut::Unknown(error) => write!(f, "the addresses of this machine are not known ({error}); give one, as in 192.168.1.20"),
            Shut::NoNetwork => write!(f, "this machine has no address on a local network; connect it to yours first"),
            Shut::NotLocal(address) => write!(f, "{address} is not an address on a local network; give this machine's own, as in 192.168.1.20"),
            Shut::Taken(address, error) => {
                write!(f, "{}, port {}: {error}; give an address of this machine, or use another port", address.ip(), address.port())
            }
        }
    }
}

/// Listeners on the local network at `port`: at one address, or at every private one of this machine.
///
/// # Errors
/// When there is none, or one cannot be listened on.
pub async fn listen(address: Option<IpAddr>, port: u16) -> Result<Vec<TcpListener>, Shut> {
    let addresses = address.map_or_else(|| private_addresses().map_err(Shut::Unknown), |address| Ok(vec![address]))?;
    if addresses.is_empty() {
        return Err(Shut::NoNetwork);
    }
    let mut listeners = Vec::new();
    for address in addresses {
        if address.is_unspecified() || address == IpAddr::V4(Ipv4Addr::LOCALHOST) {
            return Err(Shut::NotLocal(address));
        }
        let listener = TcpListener::bind((address, port)).await;
        listeners.push(listener.map_err(|error| Shut::Taken((address, port).into(), error))?);
    }
    Ok(listeners)
}

/// What is listened on at the local network; none while the door is closed.
pub type Listening = Arc<[Arc<TcpListener>]>;

/// Who is let in from the local network, and whether there is a way in.
pub struct Door {
    /// The port of this machine's own page, at which a phone comes in too.
    port: u16,
    /// Addresses on the local network that are listened on; none: the door is closed.
    addresses: Mutex<Vec<SocketAddr>>,
    listening: watch::Sender<Listening>,
    state: Mutex<State>,
}

impl Default for Door {
    fn default() -> Self {
        Door::at(0, Vec::new())
    }
}

impl Door {
    /// A door at these addresses, which somebody else listens on.
    pub fn at(port: u16, addresses: Vec<SocketAddr>) -> Self {
        Door { port, addresses: Mutex::new(addresses), listening: watch::Sender::new(Listening::from([])), state: Mutex::default() }
    }

    /// Addresses on the local network that are listened on.
    pub fn addresses(&self) -> Vec<SocketAddr> {
        self.addresses.lock().unwrap_or_else(PoisonError::into_inner).clone()
    }

    /// Has these listeners served in place of what was; with none the door is closed, and who came in by it is cut off.
    ///
    /// # Errors
    /// When a listener does not know its address.
    pub async fn serve(&self, listeners: Vec<TcpListener>) -> std::io::Result<()> {
        let addresses = listeners.iter().map(TcpListener::local_addr).collect::<Result<_, _>>()?;
        *self.addresses.lock().unwrap_or_else(PoisonError::into_inner) = addresses;
        // A code of before would lead to an address that may be gone.
        *self.state() = State::default();
        let before = Arc::downgrade(&self.listening.send_replace(listeners.into_iter().map(Arc::new).collect()));
        // Closed is closed once nothing accepts any more; that takes the server's loop a moment.
        while before.strong_count() > 0 {
            tokio::task::yield_now().await;
        }
        Ok(())
    }

    /// Opens the door, or leaves it open.
    ///
    /// # Errors
    /// As [`listen`].
    pub async fn open(&self, address: Option<IpAddr>) -> Result<(), Shut> {
        if !self.addresses().is_empty() {
            return Ok(());
        }
        let listeners = listen(address, self.port).await?;
        self.serve(listeners).await.map_err(Shut::Unknown)
    }

    /// What is to be served now, and whenever that changes.
    pub(crate) fn listening(&self) -> watch::Receiver<Listening> {
        self.listening.subscribe()
    }

    fn state(&self) -> MutexGuard<'_, State> {
        self.state.lock().unwrap_or_else(PoisonError::into_inner)
    }

    /// A new code; the one before is good for nothing any more.
    ///
    /// # Errors
    /// When the machine has no random numbers to give.
    pub fn new_code(&self, now: Instant) -> Result<String, getrandom::Error> {
        let mut bytes = [0; LENGTH];
        getrandom::fill(&mut bytes)?;
        let code: String = bytes.iter().map(|byte| char::from(ALPHABET[usize::from(byte % 32)])).collect();
        self.state().code = Some((code.clone(), now + GOOD_FOR));
        Ok(code)
    }

    /// What a phone is to open for a code: after the `#`, so that it stands in no log.
    pub fn address_for(&self, code: &str) -> Option<String> {
        self.addresses().first().map(|address| format!("http://{address}/pair#{code}"))
    }

    /// A new code with its address and its picture in block characters, for a terminal; `None` where there is no door.
    ///
    /// # Errors
    /// As [`Self::new_code`].
    pub fn invitation(&self) -> Result<Option<Invitation>, getrandom::Error> {
        if self.addresses().is_empty() {
            return Ok(None);
        }
        let code = self.new_code(Instant::now())?;
        let address = self.address_for(&code).unwrap_or_default();
        // Light squares on a dark ground, as most terminals have it.
        let draw = |code: QrCode| code.render::<Dense1x2>().dark_color(Dense1x2::Light).light_color(Dense1x2::Dark).build();
        Ok(Some(Invitation { picture: QrCode::new(&address).map(draw).unwrap_or_default(), code, address }))
    }

    /// Tries a code; case and what people put between groups do not matter.
    pub fn knock(&self, code: &str, now: Instant) -> Knock {
        let mut state = self.state();
        if let Some(left) = state.closed_until.and_then(|until| until.checked_duration_since(now)).filter(|left| !left.is_zero()) {
            return Knock::Closed(left);
        }
        let given: String = code.chars().filter(char::is_ascii_alphanumeric).map(|c| c.to_ascii_uppercase()).collect();
        if state.code.as_ref().is_some_and(|(code, until)| *code == given && now < *until) {
            *state = State::default();
            return Knock::In;
        }
        state.wrong += 1;
        if state.wrong < WRONG {
            return Knock::Wrong;
        }
        // Whoever guesses gets no second go at the same code.
        *state = State { closed_until: Some(now + CLOSED_FOR), ..State::default() };
        Knock::Closed(CLOSED_FOR)
    }
}

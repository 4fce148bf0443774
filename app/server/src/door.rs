//! The door to the local network: codes that let one device in, once, for a few minutes.

use qrcode::QrCode;
use qrcode::render::unicode::Dense1x2;
use std::net::{IpAddr, SocketAddr};
use std::sync::{Mutex, MutexGuard, PoisonError};
use std::time::{Duration, Instant};

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

/// Who is let in from the local network.
#[derive(Default)]
pub struct Door {
    /// Addresses on the local network that are listened on; none: the door does not exist.
    pub addresses: Vec<SocketAddr>,
    state: Mutex<State>,
}

impl Door {
    /// A door at these addresses.
    pub fn at(addresses: Vec<SocketAddr>) -> Self {
        Door { addresses, state: Mutex::default() }
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
        self.addresses.first().map(|address| format!("http://{address}/pair#{code}"))
    }

    /// A new code with its address and its picture in block characters, for a terminal; `None` where there is no door.
    ///
    /// # Errors
    /// As [`Self::new_code`].
    pub fn invitation(&self) -> Result<Option<Invitation>, getrandom::Error> {
        if self.addresses.is_empty() {
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

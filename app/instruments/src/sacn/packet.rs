//! Packets as E1.31 has them: three layers, one in the other, every length checked.

use thiserror::Error;

/// Channels of a universe at most.
pub const CHANNELS: usize = 512;
/// Universes that may be named.
pub const UNIVERSES: std::ops::RangeInclusive<u16> = 1..=63_999;
/// Of a priority.
const MOST_PRIORITY: u8 = 200;
/// Length of a packet without channels: all layers up to the start code.
const HEAD: usize = 126;
const ACN: &[u8; 12] = b"ASC-E1.17\0\0\0";
const ROOT_DATA: u32 = 4;
const FRAMING_DATA: u32 = 2;
const DMP_SET: u8 = 2;
/// Two-octet addresses of equal size, one after the other.
const DMP_TYPE: u8 = 0xa1;
const PREVIEW: u8 = 0x80;
const TERMINATED: u8 = 0x40;
const NAME: usize = 64;

/// Channels of one universe.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Data {
    /// Who sends.
    pub sender: [u8; 16],
    /// What the sender calls itself.
    pub name: String,
    /// Of several senders the highest is shown, 0 to 200.
    pub priority: u8,
    /// Counts up with every packet of a universe.
    pub sequence: u8,
    /// Not meant to be seen.
    pub preview: bool,
    /// The sender ends.
    pub terminated: bool,
    /// Which universe.
    pub universe: u16,
    /// What is sent instead of levels, where it is not 0.
    pub start_code: u8,
    /// The channels.
    pub channels: Vec<u8>,
}

/// Why a packet is none.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Error)]
pub enum Malformed {
    /// Too short, or a length that is not the packet's.
    #[error("a length is not that of the packet")]
    Length,
    /// Something else than ACN.
    #[error("it is not a packet of ACN")]
    NotAcn,
    /// A layer of another kind.
    #[error("a layer is of another kind")]
    Vector,
    /// A field out of its range.
    #[error("a field is out of its range")]
    Range,
    /// A name that is not text.
    #[error("the sender's name is not text")]
    Name,
}

/// The octets of a packet.
pub fn encode(data: &Data) -> Vec<u8> {
    let channels = &data.channels[..data.channels.len().min(CHANNELS)];
    let whole = HEAD + channels.len();
    let mut out = Vec::with_capacity(whole);
    // Flags are always 0x7; the length counts from the flags on.
    let length = |from: usize| 0x7000 | (whole - from) as u16;
    out.extend(0x0010u16.to_be_bytes());
    out.extend(0u16.to_be_bytes());
    out.extend(ACN);
    out.extend(length(16).to_be_bytes());
    out.extend(ROOT_DATA.to_be_bytes());
    out.extend(data.sender);
    out.extend(length(38).to_be_bytes());
    out.extend(FRAMING_DATA.to_be_bytes());
    let mut name = [0; NAME];
    // The last octet stays null; a letter is not cut in two.
    let end = (0..=data.name.len().min(NAME - 1)).rev().find(|end| data.name.is_char_boundary(*end)).unwrap_or(0);
    name[..end].copy_from_slice(&data.name.as_bytes()[..end]);
    out.extend(name);
    out.push(data.priority.min(MOST_PRIORITY));
    out.extend(0u16.to_be_bytes());
    out.push(data.sequence);
    out.push(if data.preview { PREVIEW } else { 0 } | if data.terminated { TERMINATED } else { 0 });
    out.extend(data.universe.to_be_bytes());
    out.extend(length(115).to_be_bytes());
    out.extend([DMP_SET, DMP_TYPE, 0, 0, 0, 1]);
    out.extend((channels.len() as u16 + 1).to_be_bytes());
    out.push(data.start_code);
    out.extend(channels);
    out
}

/// Reads a packet.
///
/// # Errors
/// When any of its layers is not as the standard has it.
pub fn decode(packet: &[u8]) -> Result<Data, Malformed> {
    if packet.len() < HEAD || packet.len() > HEAD + CHANNELS {
        return Err(Malformed::Length);
    }
    let word = |at: usize| u16::from_be_bytes([packet[at], packet[at + 1]]);
    let long = |at: usize| u32::from_be_bytes([packet[at], packet[at + 1], packet[at + 2], packet[at + 3]]);
    if word(0) != 0x0010 || word(2) != 0 || &packet[4..16] != ACN {
        return Err(Malformed::NotAcn);
    }
    if [16, 38, 115].iter().any(|at| word(*at) & 0xf000 != 0x7000 || usize::from(word(*at) & 0x0fff) != packet.len() - at) {
        return Err(Malformed::Length);
    }
    if long(18) != ROOT_DATA || long(40) != FRAMING_DATA || packet[117] != DMP_SET || packet[118] != DMP_TYPE || word(119) != 0 || word(121) != 1 {
        return Err(Malformed::Vector);
    }
    let count = usize::from(word(123));
    if count == 0 || HEAD - 1 + count != packet.len() {
        return Err(Malformed::Length);
    }
    let (priority, universe) = (packet[108], word(113));
    if priority > MOST_PRIORITY || !UNIVERSES.contains(&universe) {
        return Err(Malformed::Range);
    }
    let name = &packet[44..108];
    let end = name.iter().position(|octet| *octet == 0).ok_or(Malformed::Name)?;
    let name = std::str::from_utf8(&name[..end]).map_err(|_| Malformed::Name)?.to_owned();
    let mut sender = [0; 16];
    sender.copy_from_slice(&packet[22..38]);
    Ok(Data {
        sender,
        name,
        priority,
        sequence: packet[111],
        preview: packet[112] & PREVIEW != 0,
        terminated: packet[112] & TERMINATED != 0,
        universe,
        start_code: packet[125],
        channels: packet[126..].to_vec(),
    })
}

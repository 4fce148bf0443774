//! The core as a WebAssembly module for the page's workers: the same questions as the server's, bytes in and bytes out.
//!
//! The module has no imports. A worker asks for [`room`], writes the name of the question and the question there, calls
//! [`ask`], and reads [`answer_len`] bytes from [`answer`]. Strings and lists never cross: only two lengths, a
//! status and two addresses do.
//!
//! `no_mangle` is the only thing here that the language calls unsafe: two exports of one name would clash. The addresses
//! are of buffers that live as long as the module, and nothing in here follows an address from outside.

use orthavis_core::budget::{self, Budget};
use orthavis_operations::ask as asked;
use std::cell::RefCell;

thread_local! {
    static QUESTION: RefCell<Vec<u8>> = const { RefCell::new(Vec::new()) };
    static ANSWER: RefCell<Vec<u8>> = const { RefCell::new(Vec::new()) };
}

/// Room for a question of so many bytes, name and request together; what was there before is gone.
#[unsafe(no_mangle)]
pub extern "C" fn room(bytes: usize) -> *mut u8 {
    QUESTION.with_borrow_mut(|question| {
        question.clear();
        // What one large question took is not kept for the small ones after it.
        question.shrink_to(bytes);
        question.resize(bytes, 0);
        question.as_mut_ptr()
    })
}

/// Answers the question in the room, the first `name` bytes of which are its name. 200 for an answer, else the status of
/// the refusal, which is then the answer.
#[unsafe(no_mangle)]
pub extern "C" fn ask(name: usize) -> u32 {
    let (status, bytes) = QUESTION.with_borrow(|question| {
        let (name, request) = question.split_at(name.min(question.len()));
        let name = String::from_utf8_lossy(name);
        match budget::run(Some(Budget::new(budget::USUAL)), || asked(&name, request)) {
            Ok(answer) => (200, answer),
            Err(refusal) => (u32::from(refusal.status), serde_json::to_vec(&refusal).unwrap_or_default()),
        }
    });
    ANSWER.replace(bytes);
    status
}

/// Where the last answer is.
#[unsafe(no_mangle)]
pub extern "C" fn answer() -> *const u8 {
    ANSWER.with_borrow(Vec::as_ptr)
}

/// How many bytes it has.
#[unsafe(no_mangle)]
pub extern "C" fn answer_len() -> usize {
    ANSWER.with_borrow(Vec::len)
}

//! What is made of the files of a day before anything is synced: which device and day a file belongs to, which files
//! are one recording, what will hurt later, and what the slate log says.

mod device;
mod health;
mod health_clip;
mod health_device;
mod health_late;
mod health_sound;
mod naming;
mod slate_log;
mod slate_match;
mod span;

pub use device::{DeviceGuess, guess_device};
pub use health::{HealthClip, HealthDevice, HealthKind, HealthNote, Weight, health};
pub use health_sound::{HeardTake, SeenTake, sound_notes};
pub use naming::{name_device, says_letter};
pub use slate_log::{LogColumn, LogError, LogPreview, SlateLog, SlateRow, read_log};
pub use slate_match::{Clash, LogClip, LogMatch, match_log, take_of_name};
pub use span::{SpanClip, SpanGap, find_spans, numbered_name, span_gaps};

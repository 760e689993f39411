//! What is handed on of a day: documents, logs and the sync report, the same for the page and for the commands.

mod contact;
mod day;
mod kept;
mod paper;
mod printed;
mod report;

pub use day::{DayLuts, DayTurnover, TurnedGroup, of_group};
pub use kept::{sources_of, turnover_of};
pub use paper::{Form, Paper, disposition, named};
pub use report::{DayReport, Remark};

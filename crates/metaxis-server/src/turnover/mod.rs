//! What is handed on of a day: documents, logs and the sync report, the same for the page and for the commands.

mod bundle;
mod contact;
mod day;
mod kept;
mod paper;
mod pdf;
mod printed;
mod report;

pub use bundle::{Bundle, bundle_of, unbundled};
pub use day::{DayLuts, DayTurnover, Programmed, TurnedAssembly, TurnedGroup, of_group};
pub use kept::{sources_of, turnover_of};
pub use paper::{Form, Paper, disposition, named};
pub use pdf::{PRINTED, as_pdf, page_of};
pub use report::{DayReport, Remark};

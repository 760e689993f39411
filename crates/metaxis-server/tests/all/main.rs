//! The server and its commands: one program, so that it is linked once and its tests share the machine.

#[path = "../common/mod.rs"]
mod common;

mod angles;
mod apart;
mod assemblies;
mod bench;
mod bundles;
mod changed;
mod command;
mod corpus;
mod dailies;
mod damaged;
mod days;
mod edits;
mod films;
mod films_together;
mod grid;
mod groups;
mod heard;
mod hostile;
mod http;
mod intake;
mod islands;
mod laid;
mod lines;
mod luts;
mod marks;
mod named;
mod read;
mod removed;
mod silent;
mod sound;
mod sound_documents;
mod timecode;
mod turnover;
mod unseen;
mod uploads;

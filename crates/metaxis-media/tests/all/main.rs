//! Files, read and written: one program, so that it is linked once and its tests share the machine.

mod colours;
mod damaged;
mod ended;
mod files;
mod film;
mod formats;
mod hostile;
mod resample;
mod wave;

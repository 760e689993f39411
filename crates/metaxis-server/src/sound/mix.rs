//! The sound of a group by its grid: which of its tracks are needed, and what comes out of them.

use metaxis_core::{
    clip::DeviceId,
    group::Group,
    line::{Ear, Earful, Layer, Line},
    sound::{Grid, GroupTracks, Mixdown, SoundHabit, SoundPlan, Track, Turn},
    time::SampleRate,
};

/// A group, and its line where something of its sound may follow that.
pub struct Grouped {
    /// The group.
    pub group: Group,
    /// Its line.
    pub line: Option<Line>,
    /// From and up to which of its frames; all of them where none are named.
    pub range: Option<(i64, i64)>,
}

impl Grouped {
    /// All of a group.
    pub fn whole(group: Group, line: Option<Line>) -> Self {
        Self { group, line, range: None }
    }

    /// The sample of the group at which what is wanted begins, and how many there are: of a piece one more than its frames have,
    /// for counts that are rounded otherwise.
    pub(super) fn extent(&self, rate: SampleRate) -> (i64, i64) {
        let sample = |frame| self.group.passed(frame).sample(rate.0);
        match self.range {
            Some((from, to)) => (sample(from), sample(to) - sample(from) + 1),
            None => (0, sample(self.group.frames)),
        }
    }
}

impl From<Group> for Grouped {
    fn from(group: Group) -> Self {
        Self::whole(group, None)
    }
}

/// Where the grid of a group comes from.
#[derive(Debug, Clone, PartialEq, Eq, serde::Serialize, ts_rs::TS)]
#[serde(tag = "from", rename_all = "snake_case")]
pub enum GridOrigin {
    /// It was made for this group.
    Own,
    /// It is the one that groups have unless given another.
    Usual {
        /// Its name.
        name: String,
    },
    /// Nobody chose one: what the recorders mixed.
    First,
}

/// The grid of a group that these tracks run under, and where it comes from. One for all groups that none of them is in says
/// nothing of them.
pub fn grid_of(
    own: Option<&Grid>,
    habit: &SoundHabit,
    tracks: &[Track],
    is_camera: impl Fn(DeviceId) -> bool,
) -> (Grid, GridOrigin) {
    if let Some(own) = own {
        return (own.clone(), GridOrigin::Own);
    }
    // What lies over the line goes nowhere by itself.
    let tracks: Vec<Track> = tracks.iter().filter(|own| !Layer::is_device(own.device)).cloned().collect();
    let usual = habit.usual_grid.as_ref().and_then(|name| Some((habit.grid(name)?, name)));
    match usual.filter(|(grid, _)| grid.knows(&tracks)) {
        Some((grid, name)) => (grid.clone(), GridOrigin::Usual { name: name.clone() }),
        None => (Grid::first(&tracks, is_camera), GridOrigin::First),
    }
}

/// From which output sample on a camera's own sound is heard instead of what comes out of the grid; none where that is throughout.
fn turns(group: &Group, line: &Line, sample: impl Fn(i64) -> i64) -> Vec<Turn> {
    let ears = line.ears();
    if ears.iter().all(|own| own.ear == Ear::Grid) {
        return vec![];
    }
    let turn = |(number, own): (usize, &Earful)| Turn {
        at: if number == 0 { i64::MIN / 2 } else { sample(own.from) },
        device: device_of(group, own.ear),
        // A cut in the sound is a short dissolve: it does not click.
        fade: (sample(own.from + own.dissolve) - sample(own.from)).max(sample(1) / 4 - sample(0) / 4).max(1),
    };
    ears.iter().enumerate().map(turn).collect()
}

fn device_of(group: &Group, ear: Ear) -> Option<DeviceId> {
    match ear {
        Ear::Grid => None,
        Ear::Angle(angle) => group.angle(angle)?.device,
        Ear::Layer(number) => Some(Layer::device(number)),
    }
}

/// The devices whose own sound a line lets be heard, layers among them.
pub(super) fn heard_instead(grouped: &Grouped) -> Vec<DeviceId> {
    let Some(line) = &grouped.line else { return vec![] };
    line.ears().iter().filter_map(|own| device_of(&grouped.group, own.ear)).collect()
}

/// What comes out of the tracks of a plan.
#[derive(Debug, Clone)]
pub(super) struct Mix {
    /// The outputs' names.
    pub outputs: Vec<String>,
    /// What they are made of.
    pub down: Mixdown,
    /// The plan's tracks that come behind them.
    pub behind: Vec<usize>,
    /// The grid, where a person chose it.
    pub chosen: Option<Grid>,
}

impl Mix {
    /// Of the tracks of `plan`, which are to come out as `wanted` says.
    pub fn of(
        is_camera: impl Fn(DeviceId) -> bool + Copy,
        grouped: &Grouped,
        plan: &SoundPlan,
        habit: &SoundHabit,
    ) -> Option<Self> {
        let wanted = habit.form.of_groups;
        if wanted == GroupTracks::Recorded {
            return None;
        }
        let Grouped { group, line, .. } = grouped;
        let tracks = &plan.laid.tracks;
        let (grid, origin) = grid_of(group.grid.as_ref(), habit, tracks, is_camera);
        let rate = f64::from(plan.rate.0);
        let handles = habit.form.handles(plan.rate);
        let (begins, _) = grouped.extent(plan.rate);
        let sample = |frame: i64| group.passed(frame).sample(plan.rate.0) - begins + handles;
        let shown = |device| {
            let line = line.as_ref().filter(|_| is_camera(device))?;
            let frames = line.shown(group, device);
            Some(frames.into_iter().map(|(from, to)| (sample(from), sample(to))).collect())
        };
        let turns = line.as_ref().map_or(vec![], |line| turns(group, line, sample));
        let behind = (0..tracks.len()).filter(|number| {
            let device = tracks[*number].device;
            wanted == GroupTracks::Both
                && !Layer::is_device(device)
                && (habit.form.scratch || !is_camera(device))
        });
        let down = Mixdown::new(&grid, tracks, rate, shown).with_turns(turns, tracks);
        Some(Self::made(grid, &origin, down, behind.collect()))
    }

    fn made(grid: Grid, origin: &GridOrigin, down: Mixdown, behind: Vec<usize>) -> Self {
        Self {
            outputs: grid.outputs.iter().map(|output| output.name.clone()).collect(),
            down,
            behind,
            chosen: (*origin != GridOrigin::First).then_some(grid),
        }
    }

    /// Of the tracks of `plan` by the grid that is usual, where they are to be mixed; nothing follows a line.
    pub fn plain(
        is_camera: impl Fn(DeviceId) -> bool + Copy,
        plan: &SoundPlan,
        habit: &SoundHabit,
    ) -> Option<Self> {
        let wanted = habit.form.of_groups;
        if wanted == GroupTracks::Recorded {
            return None;
        }
        let tracks = &plan.laid.tracks;
        let (grid, origin) = grid_of(None, habit, tracks, is_camera);
        let down = Mixdown::new(&grid, tracks, f64::from(plan.rate.0), |_| None);
        let behind = if wanted == GroupTracks::Both { (0..tracks.len()).collect() } else { vec![] };
        Some(Self::made(grid, &origin, down, behind))
    }

    /// The plan's track that comes out as number `number`; `None` of an output.
    pub fn track(&self, number: usize) -> Option<usize> {
        number.checked_sub(self.outputs.len()).and_then(|behind| self.behind.get(behind)).copied()
    }

    /// Fills `out` with what comes out of `tracks`, whose first samples are output sample `from`; of those that come out as they
    /// are, the buffers change places.
    pub fn apply(&self, from: i64, tracks: &mut [Vec<f32>], out: &mut Vec<Vec<f32>>) {
        out.resize(self.outputs.len() + self.behind.len(), vec![]);
        let (mixed, behind) = out.split_at_mut(self.outputs.len());
        self.down.mix(from, tracks, mixed);
        for (out, number) in behind.iter_mut().zip(&self.behind) {
            std::mem::swap(out, &mut tracks[*number]);
        }
    }
}

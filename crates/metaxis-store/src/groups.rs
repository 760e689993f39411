//! Groups and their lines.

use crate::{
    Follower, GroupId, GroupSummary, GroupView, PassId, Store, StoreError, Way,
    columns::document,
    layers,
    log::{self, Document},
};
use metaxis_core::{
    group::{AngleId, Conversion, Group, conversion},
    line::{Line, LineEdit, LineError},
    time::FrameRate,
};
use rusqlite::{OptionalExtension, Row, Transaction, params};

impl Store {
    /// A group with its line.
    ///
    /// # Errors
    /// [`StoreError::Missing`].
    pub fn group(&self, id: GroupId) -> Result<GroupView, StoreError> {
        self.transaction(|t| load(t, id)?.view(t, id))
    }

    /// Applies an edit made on `version` of the line.
    ///
    /// # Errors
    /// [`StoreError::Stale`], [`StoreError::Line`], [`StoreError::Missing`]; then nothing is changed.
    pub fn edit_line(&self, id: GroupId, version: i64, edit: &LineEdit) -> Result<GroupView, StoreError> {
        self.transaction(|t| {
            // Frames and stretches of what is shown, as those of all of it.
            let Stored { group, line, .. } = load(t, id)?;
            let edit = line.within(group.left(), layers::fitted(t, edit, group.rate())?);
            log::edit::<Cut>(t, id, Some(version), &edit)?;
            load(t, id)?.view(t, id)
        })
    }

    /// Takes the last edit of the line back, or makes the last one that was taken back again; with `whole`, all of a live run that
    /// it is a part of.
    ///
    /// # Errors
    /// As [`Store::edit_line`], and [`StoreError::NothingTo`].
    pub fn turn_line(
        &self,
        id: GroupId,
        version: i64,
        way: Way,
        whole: bool,
    ) -> Result<GroupView, StoreError> {
        self.transaction(|t| {
            let run = || Ok::<_, StoreError>(log::coming::<Cut>(t, id, way)?.and_then(|edit| edit.run()));
            let first = run()?;
            log::turn::<Cut>(t, id, Some(version), way)?;
            while whole && first.is_some() && run()? == first {
                log::turn::<Cut>(t, id, None, way)?;
            }
            load(t, id)?.view(t, id)
        })
    }
}

/// A group as it is kept.
pub(crate) struct Stored {
    pub group: Group,
    pub line: Line,
    /// A person named it.
    pub named: bool,
    /// A person arranged its angles.
    pub ordered: bool,
    /// A person put it together, or gave it its format: a later pass leaves it as it is.
    pub cast: bool,
    /// Its place among the groups, where a person put them in order.
    pub place: Option<i64>,
    /// It was deleted, or went into others.
    pub gone: bool,
}

/// The line of a group.
pub(crate) struct Cut {
    line: Line,
    angles: Vec<AngleId>,
}

impl Document for Cut {
    const KIND: &'static str = "line";
    type Id = GroupId;
    type Edit = LineEdit;

    fn load(t: &Transaction, id: GroupId) -> Result<Self, StoreError> {
        let Stored { group, line, .. } = load(t, id)?;
        Ok(Self { line, angles: order(&group) })
    }

    fn apply(&mut self, _: &Transaction, edit: &LineEdit) -> Result<Option<LineEdit>, StoreError> {
        let is_there = |angle: &AngleId| *angle == AngleId::BLACK || self.angles.contains(angle);
        if let Some(missing) = edit.angles().into_iter().find(|angle| !is_there(angle)) {
            return Err(StoreError::Refused(format!("the group has no angle {}", missing.0)));
        }
        match self.line.apply(edit) {
            // A run that ends where nothing was cut behind it leaves all as it is.
            Err(LineError::NoChange) if edit.is_hold() => Ok(None),
            applied => Ok(Some(applied?)),
        }
    }

    fn keep(&self, t: &Transaction, id: GroupId) -> Result<(), StoreError> {
        let sql = "UPDATE cut_group SET line = ?2 WHERE id = ?1";
        t.execute(sql, params![id, serde_json::to_string(&self.line)?])?;
        Ok(())
    }

    fn said(edit: &LineEdit) -> String {
        match edit {
            LineEdit::Take { angle: AngleId::BLACK, .. } => "black taken",
            LineEdit::Take { .. } => "an angle taken",
            LineEdit::Hold { .. } => "a live run ended",
            LineEdit::Dissolve { frames: 0, .. } => "a cut again",
            LineEdit::Dissolve { .. } => "a dissolve",
            LineEdit::Fade { frames: 0, .. } => "a fade taken out",
            LineEdit::Fade { .. } => "a fade",
            LineEdit::PutMarker { .. } => "a marker",
            LineEdit::TakeMarker { .. } => "a marker taken away",
            LineEdit::ChangeAngle { .. } => "another angle",
            LineEdit::Roll { .. } => "a cut rolled",
            LineEdit::Remove { .. } => "a cut taken out",
            LineEdit::Slip { .. } => "a stretch slipped",
            LineEdit::Lay { .. } => "a layer",
            LineEdit::Relay { .. } => "another layer",
            LineEdit::Lift { .. } => "a layer taken away",
            LineEdit::ClearAfter { .. } => "cuts cleared",
            LineEdit::Restore { .. } => "the line put back",
            LineEdit::Within { edit, .. } => return Self::said(edit),
            LineEdit::Sound { edit } => return format!("sound: {}", Self::said(edit)),
        }
        .into()
    }
}

pub(crate) fn order(group: &Group) -> Vec<AngleId> {
    group.angles.iter().map(|angle| angle.id).collect()
}

pub(crate) fn load(t: &Transaction, id: GroupId) -> Result<Stored, StoreError> {
    let sql = "SELECT document, line, named, ordered, gone, place, cast_by_hand FROM cut_group WHERE id = ?1";
    let stored = |row: &Row| {
        let own = Stored {
            group: document(row, 0)?,
            line: document(row, 1)?,
            named: row.get(2)?,
            ordered: row.get(3)?,
            gone: row.get(4)?,
            place: row.get(5)?,
            cast: row.get(6)?,
        };
        Ok(own)
    };
    t.query_row(sql, [id], stored).optional()?.ok_or(StoreError::Missing { what: "group", id: id.0 })
}

impl Stored {
    /// The group as it is trimmed, and its line there.
    pub fn shown(&self) -> (Group, Line) {
        let group = self.group.shown();
        let line = self.line.of(&self.group.left()).carried(0, group.frames, &order(&group));
        (group, line.unwrap_or_else(|| self.line.clone()))
    }

    fn view(self, t: &Transaction, id: GroupId) -> Result<GroupView, StoreError> {
        let followed_by = follower(t, id, &self)?;
        let turns = log::turns::<Cut>(t, id)?;
        let (group, line) = self.shown();
        Ok(GroupView {
            id,
            labels: line.switches().iter().map(|switch| group.label(switch.at)).collect(),
            axis_start_s: group.frame_start(0).seconds(),
            over: layers::parts(t, &group, &line)?,
            group,
            line,
            version: turns.version,
            can_undo: turns.undo.is_some(),
            can_redo: turns.redo.is_some(),
            followed_by,
        })
    }
}

/// The group that is shown which has most clips of one of another pass, or of one that is gone.
pub(crate) fn follower(t: &Transaction, id: GroupId, own: &Stored) -> Result<Option<Follower>, StoreError> {
    let shown: Option<PassId> = t
        .query_row(
            "SELECT current_pass FROM production
             WHERE current_pass IS NOT NULL AND (?2 OR current_pass != (SELECT pass FROM cut_group WHERE id = ?1))",
            params![id, own.gone],
            |row| row.get(0),
        )
        .optional()?;
    let Some(shown) = shown else { return Ok(None) };
    let own = own.group.clips();
    let mut best = (0, None);
    for id in ids(t, shown)? {
        let other = load(t, id)?.group;
        let shared = own.intersection(&other.clips()).count();
        if shared > best.0 {
            best = (shared, Some(Follower { id, name: other.name }));
        }
    }
    Ok(best.1)
}

pub(crate) fn ids(t: &Transaction, pass: PassId) -> Result<Vec<GroupId>, StoreError> {
    let mut statement = t.prepare("SELECT id FROM cut_group WHERE pass = ?1 AND gone = 0 ORDER BY id")?;
    Ok(statement.query_map([pass], |row| row.get(0))?.collect::<Result<_, _>>()?)
}

/// The groups of a pass in their order: as a person put them, else by the time of day.
pub(crate) fn in_order(t: &Transaction, pass: PassId) -> Result<Vec<(GroupId, Stored)>, StoreError> {
    let mut all =
        ids(t, pass)?.into_iter().map(|id| Ok((id, load(t, id)?))).collect::<Result<Vec<_>, StoreError>>()?;
    all.sort_by_key(|(id, own)| {
        let from = own.group.left()[0].0;
        (own.place.unwrap_or(i64::MAX), own.group.frame_start(from), *id)
    });
    Ok(all)
}

/// How pictures are shown whose rate is not the group's, each rate once.
fn converted(group: &Group) -> Vec<(FrameRate, Conversion)> {
    let mut rates: Vec<FrameRate> =
        group.seen().flat_map(|angle| angle.parts.iter().map(|part| part.rate)).collect();
    rates.sort_by(|a, b| a.as_f64().total_cmp(&b.as_f64()));
    rates.dedup();
    rates.retain(|rate| *rate != group.rate());
    rates.into_iter().map(|rate| (rate, conversion(rate, group.rate()))).collect()
}

pub(crate) fn summaries(t: &Transaction, pass: PassId) -> Result<Vec<GroupSummary>, StoreError> {
    let summary = |(id, stored): (GroupId, Stored)| {
        let (group, line) = stored.shown();
        GroupSummary {
            id,
            coverage: group.coverage(),
            switches: line.switches().len() as u32,
            cast: stored.cast,
            shaped: stored.named || stored.ordered || stored.cast || stored.group.is_cut_down(),
            whole_frames: stored.group.frames,
            window: stored.group.window(),
            left: stored.group.left(),
            converted: converted(&group),
            group,
        }
    };
    Ok(in_order(t, pass)?.into_iter().map(summary).collect())
}

/// A group that is kept for the first time.
pub(crate) struct NewGroup<'a> {
    pub group: &'a Group,
    pub line: &'a Line,
    /// As [`Stored`] has them.
    pub named: bool,
    pub ordered: bool,
    pub gone: bool,
    pub place: Option<i64>,
    pub cast: bool,
}

/// Keeps a group of a pass.
pub(crate) fn insert(t: &Transaction, pass: PassId, new: &NewGroup) -> Result<GroupId, StoreError> {
    let NewGroup { group, line, named, ordered, gone, place, cast } = new;
    t.execute(
        "INSERT INTO cut_group (pass, document, line, named, ordered, gone, place, cast_by_hand)
         VALUES (?1, ?2, ?3, ?4, ?5, ?6, ?7, ?8)",
        params![
            pass,
            serde_json::to_string(group)?,
            serde_json::to_string(line)?,
            named,
            ordered,
            gone,
            place,
            cast
        ],
    )?;
    Ok(GroupId(t.last_insert_rowid()))
}

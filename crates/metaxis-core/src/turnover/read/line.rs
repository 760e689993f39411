//! What a document says, as a line of a group.

use super::{MOST_MARKS, Mark, ReadBack, ReadError, Shot, Told, counted, found::Files};
use crate::{
    clip::ClipId,
    group::{AngleId, AnglePart, Group},
    line::{Layer, Line, LineEdit, Marker, Speed, Switch, both},
    time::Tick,
    turnover::{Sources, list::plain},
};
use std::collections::BTreeMap;

/// A shot of a file of the day.
struct Known<'a> {
    shot: &'a Shot,
    /// Its frames in the document.
    from: i64,
    to: i64,
    /// The clip, and its frame that the first is.
    found: Option<(ClipId, f64)>,
}

pub(super) fn line_of(
    told: &Told,
    group: &Group,
    own: &Line,
    sources: &Sources,
) -> Result<ReadBack, ReadError> {
    let rate = group.rate();
    let files = Files::of(sources);
    let frame = |at_s: f64| (at_s * rate.as_f64()).round() as i64;
    let known = told.shots.iter().map(|shot| {
        let found = shot.media.as_ref().and_then(|own| files.find(own, rate));
        Known { shot, from: frame(shot.from_s), to: frame(shot.to_s), found }
    });
    let all: Vec<Known> = known.filter(|own| own.to > own.from).collect();
    let named: Vec<&Known> = all.iter().filter(|own| own.shot.media.is_some()).collect();
    let first = named.first().ok_or(ReadError::Empty)?;
    if named.iter().all(|own| own.found.is_none()) {
        let name = first.shot.media.as_ref().and_then(|own| own.names.first().or(own.reel.as_ref()));
        return Err(ReadError::Foreign(named.len(), name.cloned().unwrap_or_default()));
    }
    let mut reading = Reading { remarks: told.remarks.clone(), ..Reading::of(group, own, sources) };
    let by = reading.later_by(&all, told.start_s);
    for shot in &all {
        reading.add(shot, by);
    }
    let markers = reading.markers(&told.marks, by);
    reading.end(markers)
}

struct Reading<'a> {
    group: &'a Group,
    own: &'a Line,
    sources: &'a Sources,
    switches: Vec<Switch>,
    layers: Vec<Layer>,
    /// Up to where the lowest track is read.
    done: i64,
    shots: usize,
    laid: usize,
    outside: usize,
    missing: BTreeMap<String, usize>,
    remarks: Vec<String>,
}

impl<'a> Reading<'a> {
    fn of(group: &'a Group, own: &'a Line, sources: &'a Sources) -> Self {
        Self {
            group,
            own,
            sources,
            switches: vec![],
            layers: vec![],
            done: 0,
            shots: 0,
            laid: 0,
            outside: 0,
            missing: BTreeMap::new(),
            remarks: vec![],
        }
    }

    /// The group's frame that the document's first is: by most of what it shows, else by its label, else the group's first.
    fn later_by(&mut self, all: &[Known], start_s: Option<f64>) -> i64 {
        let mut counts: BTreeMap<i64, i64> = BTreeMap::new();
        for own in all.iter().filter(|own| !own.shot.over) {
            for frame in self.moments(own) {
                *counts.entry(frame - own.from).or_default() += own.to - own.from;
            }
        }
        let labelled = start_s.map(|own| {
            let start = Tick::from_seconds(own).frame(self.group.rate());
            start - self.group.start.frames
        });
        let likelier = |by: i64| labelled.is_some_and(|own| own == by);
        let most = counts.into_iter().max_by_key(|(by, count)| (*count, likelier(*by), -by.abs()));
        let within = |own: &i64| own.abs() < self.group.frames;
        let by = most.map(|(by, _)| by).or(labelled.filter(within)).unwrap_or(0);
        if labelled.is_some_and(|own| own != by) {
            let label = self.group.label(by.max(0));
            self.remarks.push(format!(
                "by what it shows it begins at {label} of the group, whatever its own labels are"
            ));
        }
        by
    }

    /// The group's frames at which an angle shows what a shot begins with.
    fn moments(&self, own: &Known) -> Vec<i64> {
        let Some((clip, first)) = own.found else { return vec![] };
        let parts = self
            .group
            .angles
            .iter()
            .flat_map(|angle| &angle.parts)
            .filter(|part| part.clip == clip && !part.still);
        let moment = |part: &AnglePart| {
            let clip_s = (first + 0.5) / part.rate.as_f64() + part.picture_delay_s;
            let frame = self.group.frame_at(Tick::from_seconds(part.stretch.axis_s(clip_s)));
            (part.from_frame..part.to_frame).contains(&frame).then_some(frame)
        };
        parts.filter_map(moment).collect()
    }

    fn add(&mut self, known: &Known, by: i64) {
        let shot = known.shot;
        let (from, to) = (known.from + by, known.to + by);
        let (begin, end) = (from.max(if shot.over { 0 } else { self.done }), to.min(self.group.frames));
        if begin >= end {
            self.outside += usize::from(shot.media.is_some());
            return;
        }
        if !shot.over {
            if begin > self.done {
                self.nothing(self.done, begin, 0);
            }
            self.done = end;
        }
        let Some(media) = &shot.media else { return self.nothing(begin, end, self.frames(shot.dissolve_s)) };
        let Some((clip, first)) = known.found else {
            let name = media.names.first().or(media.reel.as_ref()).cloned().unwrap_or_default();
            *self.missing.entry(name).or_default() += 1;
            if !shot.over {
                self.nothing(begin, end, 0);
            }
            return;
        };
        self.shots += 1;
        let dissolve = self.frames(shot.dissolve_s);
        let in_step = self.in_step(clip, first, shot.speed, (from, begin, end)).filter(|_| !shot.over);
        match in_step {
            Some(angle) => self.switch(Switch { at: begin, angle, dissolve }),
            None => self.lay(clip, first, shot.speed, (from, begin, end)),
        }
    }

    fn frames(&self, seconds: f64) -> i64 {
        (seconds * self.group.rate().as_f64()).round() as i64
    }

    fn switch(&mut self, new: Switch) {
        let comes_before = self.switches.last().is_some_and(|last| {
            let is_cut_short = last.at + last.dissolve > new.at && new.dissolve == 0;
            last.angle == AngleId::BLACK && is_cut_short && self.has_nothing(new.angle, last.at, new.at)
        });
        match self.switches.last_mut() {
            // The same goes on: cut where its clock is a frame off, or where somebody cut it for nothing.
            Some(last) if last.angle == new.angle && new.dissolve == 0 => {}
            // It comes for longer than it has nothing to show.
            Some(last) if comes_before => last.angle = new.angle,
            _ => self.switches.push(new),
        }
    }

    /// The angle that shows a clip's frames at their moments, to a frame.
    fn in_step(
        &self,
        clip: ClipId,
        first: f64,
        speed: f64,
        (from, begin, end): (i64, i64, i64),
    ) -> Option<AngleId> {
        let rate = self.group.rate().as_f64();
        let shows = |angle: AngleId, part: &AnglePart| {
            if part.still {
                return true;
            }
            let ratio = part.rate.as_f64() / rate;
            // As near as a list can say it, and clocks let it be.
            let near = ratio.max(1.0) + 0.01;
            let is_near = |at: i64| {
                let shown = first + (at - from) as f64 * ratio * speed;
                let own = self.group.part_at(angle, at).filter(|own| own.clip == clip);
                own.is_none_or(|own| (self.group.clip_frame(own, at) as f64 - shown).abs() <= near)
            };
            is_near(begin) && is_near(end - 1)
        };
        let own = self.group.angles.iter().find(|angle| {
            let part = self.group.part_at(angle.id, begin).filter(|part| part.clip == clip);
            part.is_some_and(|part| shows(angle.id, part))
        });
        own.map(|angle| angle.id)
    }

    /// Lays a clip over the line; below it goes on what was.
    fn lay(&mut self, clip: ClipId, first: f64, speed: f64, (from, begin, end): (i64, i64, i64)) {
        let facts = self.sources.clips.get(&clip).and_then(|own| own.facts.picture.as_ref());
        let (Some(facts), Some(speed)) = (facts, as_fraction(speed)) else {
            return self.remarks.push("a shot has a speed that nothing is played at: it is left out".into());
        };
        self.laid += 1;
        let layer = Layer {
            at: begin,
            frames: end - begin,
            clip,
            from: (first + 1e-6).floor().max(0.0) as i64,
            skip: (begin - from).max(0),
            speed,
            blended: false,
            own_sound: false,
        };
        match layer.fitted(facts, self.group.rate()) {
            Some(layer) => self.layers.push(layer),
            None => {
                self.remarks.push("a shot asks for frames that its file does not have: it is left out".into())
            }
        }
    }

    /// Nothing is seen for a while. Where an angle that goes on has nothing there, that is said already; so it is where the group's
    /// own line has such.
    fn nothing(&mut self, from: i64, to: i64, dissolve: i64) {
        let last = self.switches.last().map(|own| own.angle);
        let goes_on = last.is_some_and(|own| dissolve == 0 && self.has_nothing(own, from, to));
        let is_as_own = from > 0 && last == Some(self.own.angle_at(from - 1));
        if goes_on && !is_as_own {
            return;
        }
        let own: Vec<(i64, i64, AngleId)> = self
            .own
            .stretches()
            .map(|(begin, end, angle)| (begin.max(from), end.min(to), angle))
            .filter(|(begin, end, _)| begin < end)
            .collect();
        if own.iter().all(|(begin, end, angle)| self.has_nothing(*angle, *begin, *end)) {
            for (at, _, angle) in own {
                self.switch(Switch { at, angle, dissolve: if at == from { dissolve } else { 0 } });
            }
        } else if !goes_on {
            self.switch(Switch { at: from, angle: AngleId::BLACK, dissolve });
        }
    }

    /// Whether no document has anything of an angle in some frames.
    fn has_nothing(&self, angle: AngleId, from: i64, to: i64) -> bool {
        let Some(angle) = self.group.angle(angle) else { return true };
        self.sources.pieces(self.group, angle, from, to).iter().all(|(part, ..)| part.is_none())
    }

    /// The document's markers, of a list with what it could not say of the line's own.
    fn markers(&mut self, marks: &[Mark], by: i64) -> Vec<Marker> {
        let mut markers: Vec<Marker> = vec![];
        let (mut outside, mut beyond) = (0, 0);
        for mark in marks {
            // The frame that is on screen then; moments are rounded where they are written.
            let at = (mark.at_s * self.group.rate().as_f64() + 0.05).floor() as i64 + by;
            if !(0..self.group.frames).contains(&at) {
                outside += 1;
                continue;
            }
            let is_its = |own: &&Marker| {
                own.at == at && mark.colour.is_none() && {
                    let own = plain(&own.note);
                    own.trim() == mark.note || (!mark.note.is_empty() && own.starts_with(&mark.note))
                }
            };
            let new = self.own.markers().iter().find(is_its).cloned().unwrap_or_else(|| Marker {
                at,
                colour: mark.colour.unwrap_or_default(),
                note: mark.note.clone(),
            });
            match markers.iter().position(|own| own.at == at) {
                Some(own) => markers[own].note = both(&markers[own].note, &new.note),
                None if markers.len() < MOST_MARKS => markers.push(new),
                None => beyond += 1,
            }
        }
        let said = [
            counted(outside, ["marker lies outside of the group", "markers lie outside of the group"])
                .map(|own| format!("{own}: left out")),
            counted(beyond, ["marker", "markers"])
                .map(|own| format!("it has {own} more than {MOST_MARKS}: left out")),
        ];
        self.remarks.extend(said.into_iter().flatten());
        markers.sort_by_key(|own| own.at);
        markers
    }

    fn end(mut self, markers: Vec<Marker>) -> Result<ReadBack, ReadError> {
        if self.done < self.group.frames {
            self.nothing(self.done, self.group.frames, 0);
        }
        if self.switches.first().is_none_or(|own| own.at > 0) {
            self.switches.insert(0, Switch::cut(0, AngleId::BLACK));
        }
        // Nothing is before the first that it could come out of, and none comes when the next does.
        let ends: Vec<i64> =
            self.switches.iter().skip(1).map(|own| own.at).chain([self.group.frames]).collect();
        for (own, end) in self.switches.iter_mut().zip(ends) {
            own.dissolve = if own.at > 0 { own.dissolve.clamp(0, end - own.at) } else { 0 };
        }
        let names: Vec<String> = self.missing.keys().take(5).map(|own| format!("“{own}”")).collect();
        let missing: usize = self.missing.values().sum();
        let said = [
            counted(missing, ["shot is of a file that is", "shots are of files that are"])
                .map(|own| format!("{own} not in this day ({}): black stands there", names.join(", "))),
            counted(
                self.laid,
                [
                    "shot is not what an angle shows at that moment: it lies over the line",
                    "shots are not what an angle shows at that moment: they lie over the line",
                ],
            ),
            counted(
                self.outside,
                ["shot lies outside of the group: left out", "shots lie outside of the group: left out"],
            ),
        ];
        self.remarks.extend(said.into_iter().flatten());
        self.remarks.dedup();
        let marked = markers.len();
        let edit = LineEdit::Restore {
            switches: self.switches,
            markers: (marked > 0).then_some(markers),
            layers: Some(self.layers),
            sound: None,
        };
        let mut made = self.own.clone();
        match made.apply(&edit) {
            Ok(_) | Err(crate::line::LineError::NoChange) => {}
            Err(e) => return Err(ReadError::Impossible(e.to_string())),
        }
        Ok(ReadBack { edit, shots: self.shots, markers: marked, remarks: self.remarks })
    }
}

/// A speed as a fraction, the simplest that is as near as documents say it; `None` where nothing is played at it.
fn as_fraction(speed: f64) -> Option<Speed> {
    let near = |den: i64| {
        let num = (speed * den as f64).round();
        ((num / den as f64 - speed).abs() <= 1e-7 * speed.abs()).then_some((num as i64, den))
    };
    let (num, den) = (1..=2_000).find_map(near).unwrap_or(((speed * 1e6).round() as i64, 1_000_000));
    Speed::new(num, den).ok()
}

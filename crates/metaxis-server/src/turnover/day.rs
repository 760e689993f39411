//! All that is handed on of a day.

use super::{
    contact,
    paper::{Form, Paper, named},
    report::{self, DayReport},
};
use crate::sound::{Asked, Grouped, SoundDay, laid};
use metaxis_core::{
    clip::DeviceId,
    group::Group,
    line::Line,
    lut::{Lut, LutKey, SeenThrough},
    sound::{Container, GroupTracks, OwnSound},
    time::Timecode,
    turnover::{
        AssembledPart, LaidSound, LoggedClip, Sources, assembly_document, assembly_lists, channels_log,
        choices_document, clips_log, cut_lists, day_document, group_document, line_document, nested_document,
        sync_log, takes_log,
    },
};
use metaxis_store::{AssemblyId, SoundOrder};
use std::collections::HashMap;

/// A group that is handed on, with its line where it has one.
#[derive(Debug, Clone)]
pub struct TurnedGroup {
    /// The group, as it is shown.
    pub group: Group,
    /// Its line.
    pub line: Option<Line>,
}

/// An assembly that is handed on.
#[derive(Debug, Clone)]
pub struct TurnedAssembly {
    /// Its number.
    pub id: AssemblyId,
    /// Its name.
    pub name: String,
    /// It is put aside: handed on only where it is asked for.
    pub aside: bool,
    /// The label of its first frame, and what it is made of; why it cannot be one programme, where it cannot.
    pub programme: Result<Programmed, String>,
}

/// The label of a first frame, and the parts that follow each other from there.
pub type Programmed = (Timecode, Vec<AssembledPart>);

/// What all documents of a day are made of.
pub struct DayTurnover {
    /// What its clips and devices are.
    pub sources: Sources,
    /// Its sound.
    pub sound: SoundDay,
    /// Its groups, in order.
    pub groups: Vec<TurnedGroup>,
    /// What is made of their lines.
    pub assemblies: Vec<TurnedAssembly>,
    /// Its clips, as logs tell them.
    pub clips: Vec<LoggedClip>,
    /// What the report says of the whole.
    pub report: DayReport,
    /// What its pictures are seen through; documents say nothing of it.
    pub luts: DayLuts,
}

/// What pictures of a day are seen through.
#[derive(Debug, Default)]
pub struct DayLuts {
    /// Those of devices.
    pub devices: HashMap<DeviceId, LutKey>,
    /// All that are chosen anywhere.
    pub tables: HashMap<LutKey, Lut>,
}

impl DayLuts {
    /// What a device's pictures are seen through, or those of an angle that has its own.
    pub fn of(&self, device: Option<DeviceId>, angle: Option<&SeenThrough>) -> Option<&Lut> {
        let key = match angle {
            Some(SeenThrough::Nothing) => None,
            Some(SeenThrough::Lut(key)) => Some(key),
            None => self.devices.get(&device?),
        };
        self.tables.get(key?)
    }
}

/// What tells of a day.
const LOGS: [&str; 6] = ["clips.csv", "takes.csv", "sync.csv", "channels.csv", "report.html", "contact.html"];
/// Those of a group.
const OF_A_GROUP: [&str; 5] = ["group.otio", "line.otio", "choices.otio", "nested.otio", "line.edl"];
/// Those of an assembly.
const OF_AN_ASSEMBLY: [&str; 2] = ["assembly.otio", "assembly.edl"];

impl DayTurnover {
    /// What its documents are called after.
    fn name(&self) -> String {
        match (self.report.production.as_str(), self.report.day.as_str()) {
            ("", "") => "Day".into(),
            (one, "") | ("", one) => one.into(),
            (production, day) => format!("{production} {day}"),
        }
    }

    /// A document of the day; `None` where there is none called so.
    pub fn paper(&self, which: &str) -> Option<Paper> {
        match which {
            "day.otio" => Some(self.whole(&self.sounds())),
            "everything.zip" => Some(Paper::archive(named(&self.name(), which), &self.papers())),
            _ => self.log(which),
        }
    }

    /// Every document: those of the day, and those of each group.
    pub fn papers(&self) -> Vec<Paper> {
        let sounds = self.sounds();
        let of_groups = self.groups.iter().zip(&sounds).zip(1..).flat_map(|((own, sound), number)| {
            let papers =
                OF_A_GROUP.iter().filter_map(|which| of_group(own, &self.sources, sound.as_ref(), which));
            // Groups may have one name.
            papers.map(move |paper| Paper { name: format!("{number:02} {}", paper.name), ..paper })
        });
        let logs = LOGS.iter().filter_map(|which| self.log(which));
        let of_assemblies =
            self.assemblies.iter().filter(|own| !own.aside).zip(1..).flat_map(|(own, number)| {
                let papers = OF_AN_ASSEMBLY.iter().filter_map(|which| self.of_assembly(own, which));
                papers.map(move |paper| Paper { name: format!("{number:02} {}", paper.name), ..paper })
            });
        std::iter::once(self.whole(&sounds)).chain(logs).chain(of_groups).chain(of_assemblies).collect()
    }

    /// The assembly of that number.
    pub fn assembly(&self, id: AssemblyId) -> Option<&TurnedAssembly> {
        self.assemblies.iter().find(|own| own.id == id)
    }

    /// A document of one of its groups; `None` where there is none called so.
    pub fn of_group(&self, own: &TurnedGroup, which: &str) -> Option<Paper> {
        of_group(own, &self.sources, self.sound_of(own).as_ref(), which)
    }

    /// A document of an assembly; `None` where there is none called so, or it cannot be one programme.
    pub fn of_assembly(&self, own: &TurnedAssembly, which: &str) -> Option<Paper> {
        let (start, parts) = own.programme.as_ref().ok()?;
        let name = named(&own.name, which);
        match which {
            "assembly.otio" => {
                let sounding =
                    |part: &AssembledPart| AssembledPart { sound: self.sound_in(part), ..part.clone() };
                let parts: Vec<AssembledPart> = parts.iter().map(sounding).collect();
                Some(Paper::json(name, &assembly_document(&own.name, *start, &parts, &self.sources)))
            }
            // A list names the reference, which is the group's own.
            "assembly.edl" => Some(Paper::lists(
                &named(&own.name, "assembly"),
                assembly_lists(&own.name, *start, parts, &self.sources),
            )),
            _ => None,
        }
    }

    /// The tracks that lie under all of a part's line.
    fn sound_in(&self, part: &AssembledPart) -> Option<LaidSound> {
        let own = TurnedGroup { group: part.group.clone(), line: Some(part.line.clone()) };
        if part.is_gap { None } else { self.sound_of(&own) }
    }

    /// A log, or the report.
    fn log(&self, which: &str) -> Option<Paper> {
        let name = named(&self.name(), which);
        let table = |text: String| Some(Paper::text(name.clone(), Form::Table, text));
        match which {
            "clips.csv" => table(clips_log(&self.clips)),
            "takes.csv" => table(takes_log(&self.clips)),
            "sync.csv" => table(sync_log(&self.clips)),
            "channels.csv" => table(channels_log(&self.clips)),
            "report.html" => Some(Paper::text(name, Form::Page, report::page(&self.report, &self.clips))),
            "contact.html" => Some(Paper::text(name, Form::Page, contact::page(&self.report, &self.clips))),
            _ => None,
        }
    }

    /// The day as a bin: pictures with their sound, groups, and lines. `sounds` are those of the groups.
    fn whole(&self, sounds: &[Option<LaidSound>]) -> Paper {
        let order = order(&self.sources, |order| {
            order.habit.form.container = Container::Linked;
            order.habit.form.own = OwnSound::Muted;
        });
        let Asked { files, .. } = self.sound.for_clips(|_| true, &order);
        let clips = files.iter().filter_map(|file| file.linked(&laid(file), Some(&self.sources))).collect();
        let groups = || self.groups.iter().zip(sounds);
        let of_group = |(own, sound): (&TurnedGroup, &Option<LaidSound>)| {
            group_document(&own.group, &self.sources, sound.as_ref())
        };
        let of_line = |(own, sound): (&TurnedGroup, &Option<LaidSound>)| {
            Some(line_document(&own.group, own.line.as_ref()?, &self.sources, sound.as_ref()))
        };
        let bins = vec![
            ("Clips with their sound", clips),
            ("Groups", groups().map(of_group).collect()),
            ("Lines", groups().filter_map(of_line).collect()),
        ];
        Paper::json(named(&self.name(), "day.otio"), &day_document(&self.name(), bins))
    }

    /// The tracks that documents of each group name.
    fn sounds(&self) -> Vec<Option<LaidSound>> {
        self.groups.iter().map(|own| self.sound_of(own)).collect()
    }

    /// The tracks that documents of a group name.
    fn sound_of(&self, own: &TurnedGroup) -> Option<LaidSound> {
        let order = order(&self.sources, |order| order.habit.form.of_groups = GroupTracks::Both);
        let grouped = Grouped::whole(own.group.clone(), own.line.clone());
        self.sound.for_groups(&[grouped], &order).files.first().map(laid)
    }
}

/// A document of a group; `None` where there is none called so, or it has no line.
pub fn of_group(
    own: &TurnedGroup,
    sources: &Sources,
    sound: Option<&LaidSound>,
    which: &str,
) -> Option<Paper> {
    let TurnedGroup { group, line } = own;
    let name = named(&group.name, which);
    match (which, line) {
        ("group.otio", _) => Some(Paper::json(name, &group_document(group, sources, sound))),
        ("line.otio", Some(line)) => Some(Paper::json(name, &line_document(group, line, sources, sound))),
        ("choices.otio", Some(line)) => Some(Paper::json(name, &choices_document(group, line, sources))),
        ("nested.otio", Some(line)) => Some(Paper::json(name, &nested_document(group, line, sources, sound))),
        ("line.edl", Some(line)) => {
            Some(Paper::lists(&named(&group.name, "line"), cut_lists(group, line, sources)))
        }
        _ => None,
    }
}

/// What is chosen about sound, without what only files have, and with what a document needs.
fn order(sources: &Sources, change: impl FnOnce(&mut SoundOrder)) -> SoundOrder {
    let mut order = SoundOrder { habit: sources.habit.clone().together(), ..SoundOrder::default() };
    change(&mut order);
    order
}

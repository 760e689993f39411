//! Edits without end, and what was answered of them.

use crate::Served;
use anyhow::{Context, Result, ensure};
use rand::Rng;
use rand_chacha::ChaCha8Rng;
use reqwest::Method;
use serde_json::{Value, json};

/// What the server answered last, and what it was asked since.
#[derive(Debug, Clone, Default)]
pub struct Known {
    group: i64,
    frames: i64,
    angles: Vec<i64>,
    clips: Vec<i64>,
    /// Version and switches of the line, as they were answered.
    line: (i64, Value),
    /// The last note of each clip that was answered, in the order of `clips`.
    notes: Vec<String>,
    /// A note that was sent and not answered: which clip's, and what it says.
    on_its_way: Option<(usize, String)>,
    /// Edits that were answered.
    pub answered: u64,
    /// The number of the last note that was sent.
    sent: u64,
}

impl Known {
    /// What there is to edit in a production.
    ///
    /// # Errors
    /// Where it has no group.
    pub async fn of(served: &Served) -> Result<Self> {
        let day = served.day().await?;
        let group = day["groups"][0]["id"].as_i64().context("no group")?;
        let (_, view) = served.ask(Method::GET, &format!("/groups/{group}"), &Value::Null).await?;
        let numbers = |all: &Value, name: &str| -> Vec<i64> {
            all.as_array().into_iter().flatten().filter_map(|one| one[name].as_i64()).collect()
        };
        let clips = numbers(&day["clips"], "id");
        Ok(Self {
            group,
            frames: view["group"]["frames"].as_i64().context("no frames")?,
            angles: numbers(&view["group"]["angles"], "device"),
            notes: day["clips"].as_array().into_iter().flatten().map(note_of).collect(),
            clips,
            line: line(&view)?,
            ..Self::default()
        })
    }

    /// Goes on in the group of the pass that is shown now.
    ///
    /// # Errors
    /// Where it has none.
    pub async fn go_on_in(&mut self, served: &Served) -> Result<()> {
        let next = Self::of(served).await?;
        (self.group, self.frames, self.angles, self.line) = (next.group, next.frames, next.angles, next.line);
        Ok(())
    }

    /// Edits until the server is gone.
    pub async fn edit(&mut self, served: &Served, rng: &mut ChaCha8Rng) {
        while self.step(served, rng).await.is_ok() {}
    }

    /// One edit, of the line or of a clip's notes.
    ///
    /// # Errors
    /// Where no answer comes, or one that is a fault of the server's.
    pub async fn step(&mut self, served: &Served, rng: &mut ChaCha8Rng) -> Result<()> {
        if rng.random_bool(0.5) {
            let (at, angle) = (rng.random_range(0..self.frames), rng.random_range(0..self.angles.len()));
            let edit = json!({ "do": "take", "at": at, "angle": self.angles[angle] });
            let path = match (self.line.0 > 0).then(|| rng.random_range(0..10)) {
                Some(0) => "/undo",
                Some(1) => "/redo",
                _ => "",
            };
            let body = json!({ "version": self.line.0, "edit": edit });
            let path = format!("/groups/{}/line{path}", self.group);
            let (status, view) = served.ask(Method::POST, &path, &body).await?;
            // Refused where it would change nothing.
            if status == 200 {
                self.line = line(&view)?;
                self.answered += 1;
            }
            ensure!([200, 422].contains(&status), "{status} {view}");
        } else {
            let clip = rng.random_range(0..self.clips.len());
            self.sent += 1;
            let note = format!("note {}", self.sent);
            let edit = json!({
                "do": "slate", "clips": [self.clips[clip]], "scene": null, "take": null, "notes": note, "circled": null
            });
            self.on_its_way = Some((clip, note.clone()));
            let (status, answer) = served.ask(Method::POST, "/intake/edits", &edit).await?;
            ensure!(status == 200, "{status} {answer}");
            self.on_its_way = None;
            self.notes[clip] = note;
            self.answered += 1;
        }
        Ok(())
    }

    /// How much of what was answered is not there any more. What was on its way may be there or not.
    ///
    /// # Errors
    /// Where the server does not say.
    pub async fn lost(&mut self, served: &Served) -> Result<u64> {
        let mut lost = 0;
        let (_, view) = served.ask(Method::GET, &format!("/groups/{}", self.group), &Value::Null).await?;
        let now = line(&view)?;
        if now != self.line && now.0 != self.line.0 + 1 {
            lost += 1;
        }
        self.line = now;
        let day = served.day().await?;
        let coming = self.on_its_way.take();
        for (at, (id, note)) in self.clips.iter().zip(&mut self.notes).enumerate() {
            let clip = day["clips"].as_array().into_iter().flatten().find(|clip| clip["id"] == *id);
            let said = clip.map(note_of).unwrap_or_default();
            let came = coming.as_ref().is_some_and(|(own, text)| *own == at && *text == said);
            if said != *note && !came {
                lost += 1;
            }
            *note = said;
        }
        Ok(lost)
    }
}

fn note_of(clip: &Value) -> String {
    clip["notes"].as_str().unwrap_or_default().to_owned()
}

fn line(view: &Value) -> Result<(i64, Value)> {
    Ok((
        view["version"].as_i64().with_context(|| format!("no version: {view}"))?,
        view["line"]["switches"].clone(),
    ))
}

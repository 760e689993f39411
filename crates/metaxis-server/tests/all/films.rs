//! Films: every frame of a file that is made is the one that was drawn at that moment, and its sound lies where it was made.

use crate::{
    common::{Api, clip, config, small, synced, synced_with, take},
    luts::{bring, gain},
    named::{Elsewhere, Found, drawn, drawn_in, own_s, said},
};
use metaxis_shoot::{Truth, TruthClip};
use serde_json::{Value, json};
use std::{
    collections::BTreeMap,
    fs,
    ops::Range,
    path::{Path, PathBuf},
    process::Command,
    time::Duration,
};

pub fn truth() -> Truth {
    serde_json::from_slice(&fs::read(small().join("truth.json")).expect("truth")).expect("truth")
}

pub fn originals(folder: &Path) -> BTreeMap<String, Found> {
    Elsewhere::of(&truth(), &small(), folder, |own| !own.path.contains("C002"))
}

/// Orders films and waits until none is left to be made; all that are in the queue.
pub async fn made(api: &Api, order: Value) -> Vec<Value> {
    let (status, said) = api.post("/films", order).await;
    assert_eq!(status, 200, "{said}");
    ended(api).await
}

async fn ended(api: &Api) -> Vec<Value> {
    loop {
        let films = api.get("/films").await.1["films"].as_array().expect("films").clone();
        if films.iter().all(|own| own["state"] != "queued" && own["state"] != "running") {
            return films;
        }
        tokio::time::sleep(Duration::from_millis(50)).await;
    }
}

pub fn form(codec: &str, wrapper: &str, more: Value) -> Value {
    let mut form = json!({ "codec": codec, "wrapper": wrapper, "grade": "fine", "sound": "mix" });
    more.as_object().into_iter().flatten().for_each(|(name, value)| form[name] = value.clone());
    form
}

fn order(what: &str, only: &Value, form: Value) -> Value {
    let (groups, clips) = if what == "clips" { (json!(null), only) } else { (only.clone(), &Value::Null) };
    json!({ "what": what, "groups": groups, "clips": clips, "form": form, "folder": "", "replace": false })
}

pub fn path_of(data: &Path, film: &Value) -> PathBuf {
    data.join("films").join(film["path"].as_str().expect("a path"))
}

/// Samples of one channel of a file, 48000 a second.
pub fn samples(path: &Path, channel: usize) -> Vec<f32> {
    let (path, pan) = (path.to_str().expect("text"), format!("pan=mono|c0=c{channel}"));
    let args = ["-v", "error", "-i", path, "-af", &pan, "-ar", "48000", "-f", "f32le", "-"];
    said("ffmpeg", &args)
        .chunks_exact(4)
        .map(|own| f32::from_le_bytes([own[0], own[1], own[2], own[3]]))
        .collect()
}

/// How many samples later than `at` in `long` the piece `own` is found best, within 60 either way.
pub fn later(own: &[f32], long: &[f32], at: i64) -> i64 {
    let likeness = |shift: i64| -> f64 {
        let at =
            |number: usize| usize::try_from(at + shift + number as i64).ok().and_then(|own| long.get(own));
        own.iter()
            .enumerate()
            .map(|(number, own)| f64::from(*own) * at(number).map_or(0.0, |two| f64::from(*two)))
            .sum()
    };
    (-60..=60).max_by(|a, b| likeness(*a).total_cmp(&likeness(*b))).expect("a place")
}

/// Holds the sound of a film against the recorder's at its head, its middle and its tail, to a sample.
fn hold_sound(film: &Path, axis_s: f64, frames: usize) {
    let own = samples(film, 0);
    let length = frames * 48_000 / 25;
    // Coded sound comes in whole blocks of 1024.
    let block = if film.extension().is_some_and(|own| own == "mp4") { 1024 } else { 1 };
    assert!((length - 1..=length + block).contains(&own.len()), "{} samples for {length}", own.len());
    hold_against_recorder(&own, axis_s, &[4_800, length / 2, length - 28_800], &truth().reference);
}

/// Holds half a second of samples from each of `at` on against a recording of a recorder, to a sample; the first is at `axis_s`.
pub fn hold_against_recorder(own: &[f32], axis_s: f64, at: &[usize], recording: &str) {
    let truth = truth();
    let recorder: &TruthClip = truth.clips.iter().find(|own| own.path == recording).expect("a recording");
    let of_recorder = samples(&small().join(&recorder.path), 0);
    for at in at {
        let there = own_s(recorder, axis_s + *at as f64 / 48_000.0) * 48_000.0;
        let off = later(&own[*at..*at + 24_000], &of_recorder, there.round() as i64);
        assert!(off.abs() <= 1, "{off} samples off at {at}");
    }
}

/// What is on air in a group by its cuts: from which frame on which angle, by its place among them.
pub struct OnAir<'a> {
    pub day: &'a Value,
    pub view: &'a Value,
    pub cuts: &'a [(i64, usize)],
    pub files: &'a BTreeMap<String, Found>,
}

impl OnAir<'_> {
    fn name(&self, id: &Value) -> &str {
        let all = self.day["clips"].as_array().expect("clips");
        all.iter().find(|own| own["id"] == *id).expect("a clip")["file_name"].as_str().expect("text")
    }

    /// Holds every frame of a film against what was drawn at its moment; how many that are. In `both` there are two at once, which
    /// have no number.
    fn hold(&self, film: &Path, both: Range<i64>) -> usize {
        let codes = drawn(film);
        assert_eq!(Some(codes.len() as i64), self.view["group"]["frames"].as_i64(), "{}", film.display());
        let looked_at = (0..).zip(&codes).filter(|(frame, _)| !both.contains(frame));
        looked_at.filter(|(frame, code)| self.hold_frame(*frame, **code, film)).count()
    }

    /// Holds what can be read in a frame of the group against what was drawn then; whether anything was.
    pub fn hold_frame(&self, frame: i64, code: Option<u64>, film: &Path) -> bool {
        let film = film.display();
        let angles = self.view["group"]["angles"].as_array().expect("angles");
        let axis_s = self.view["axis_start_s"].as_f64().expect("an axis");
        let angle = self.cuts.iter().rfind(|(at, _)| *at <= frame).map_or(0, |(_, angle)| *angle);
        let own = angles[angle]["parts"].as_array().expect("parts").iter().find(|part| {
            let at = |what: &str| part[what].as_i64().expect("a frame");
            (at("from_frame")..at("to_frame")).contains(&frame)
        });
        let at_s = axis_s + (frame as f64 + 0.5) / 25.0;
        let Some(name) = own.map(|part| self.name(&part["clip"])) else {
            // Where the angle does not run it is black.
            assert_eq!(code, None, "{film}: frame {frame}");
            return false;
        };
        let code = code.unwrap_or_else(|| panic!("{film}: no number at {frame}"));
        assert!(self.files[name].shows(code, at_s), "{film}: frame {frame} shows {code} of {name}");
        true
    }
}

#[tokio::test]
async fn a_line_as_one_file_shows_what_was_on_air_and_sounds_where_it_lay() {
    let data = tempfile::tempdir().expect("a folder");
    let (api, day) = synced(data.path()).await;
    let group = day["groups"][0]["id"].clone();
    let cuts = [(60, 1), (130, 2), (131, 3), (200, 0), (290, 2), (400, 3), (477, 1), (560, 0)];
    let edits = |angles: &[Value]| {
        let takes = cuts.iter().map(|(at, angle)| take(*at, &angles[*angle]));
        takes.chain([json!({ "do": "dissolve", "index": 5, "frames": 10 })]).collect()
    };
    let (view, _) = api.cut(&group, edits).await;
    let moved = tempfile::tempdir().expect("a folder");
    let files = originals(moved.path());
    let axis_s = view["axis_start_s"].as_f64().expect("an axis");
    let frames = view["group"]["frames"].as_i64().expect("frames");
    let on_air = OnAir { day: &day, view: &view, cuts: &cuts, files: &files };
    for (codec, wrapper) in [("h264", "mov"), ("rdd36", "mxf"), ("h265", "mp4")] {
        let films = made(&api, order("lines", &json!([group]), form(codec, wrapper, json!({})))).await;
        let film = films.iter().find(|own| own["order"]["form"]["codec"] == codec);
        let film = film.unwrap_or_else(|| panic!("no {codec}: {films:?}"));
        assert_eq!(film["state"], "done", "{film}");
        let path = path_of(data.path(), film);
        let looked = on_air.hold(&path, 290..300);
        println!("{codec} in {wrapper}: {looked} of {frames} frames are those that were on air");
        assert!(looked > 500, "{looked}");
        hold_sound(&path, axis_s, frames as usize);
        let label =
            ["-v", "error", "-show_entries", "format_tags=timecode:stream_tags=timecode", "-of", "csv=p=0"];
        let label = said("ffprobe", &[&label[..], &[path.to_str().expect("text")]].concat());
        assert!(String::from_utf8_lossy(&label).contains("09:14:00:12"), "{wrapper}");
    }
    // It can be fetched, under its name.
    let film = &api.get("/films").await.1["films"][0];
    let (status, bytes) = api.bytes(&format!("/films/{}/file", film["id"])).await;
    assert_eq!((status, bytes), (200, fs::read(path_of(data.path(), film)).expect("there")));
    api.server.stop().await;
}

/// Codes a file of the small shoot anew, with its sound and its timecode.
fn code_anew(path: &Path, how: &[&str]) {
    let aside = path.with_extension("anew.mov");
    let own = path.to_str().expect("text");
    let rest = ["-c:a", "pcm_s16le", "-map", "0:v", "-map", "0:a?", aside.to_str().expect("text")];
    said("ffmpeg", &[&["-v", "error", "-i", own], how, &rest].concat());
    fs::rename(&aside, path).expect("renamed");
}

/// A hash of each picture of a file.
fn hashes(path: &Path) -> Vec<String> {
    let path = path.to_str().expect("text");
    let args =
        ["-v", "error", "-i", path, "-map", "0:v:0", "-fps_mode", "passthrough", "-f", "framemd5", "-"];
    let lines = String::from_utf8(said("ffmpeg", &args)).expect("text");
    let hash = |line: &str| Some(line.rsplit_once(' ')?.1.to_owned());
    lines.lines().filter(|own| !own.starts_with('#')).filter_map(hash).collect()
}

#[tokio::test]
async fn what_nothing_is_changed_of_is_copied_as_it_was_recorded_and_the_rest_is_said() {
    let folder = tempfile::tempdir().expect("a folder");
    let (media, data) = (folder.path().join("media"), folder.path().join("data"));
    metaxis_shoot::copy_folder(&small(), &media).expect("a copy");
    let camera = |own: &str| media.join(own);
    let (a, b) = (camera("A_FLOOR/A001.mov"), camera("B_BENCH/B001.mov"));
    code_anew(&a, &["-pix_fmt", "yuv422p10le", "-c:v", "prores_ks", "-profile:v", "lt"]);
    code_anew(&b, &["-c:v", "libx264", "-preset", "fast", "-g", "12", "-bf", "2"]);
    let api = Api::start(config(&data, &[&media])).await;
    api.take_in(&media).await;
    let day = api.sync().await;
    let group = day["groups"][0]["id"].clone();
    let view = api.get(&format!("/groups/{group}")).await.1;
    let names: Vec<String> = {
        let on_air = OnAir { day: &day, view: &view, cuts: &[], files: &BTreeMap::new() };
        let angles = view["group"]["angles"].as_array().expect("angles");
        angles.iter().map(|own| on_air.name(&own["parts"][0]["clip"]).to_owned()).collect()
    };
    let angle = |name: &str| names.iter().position(|own| own == name).expect("an angle");
    // A line begins with the first angle.
    assert_eq!(angle("A001.mov"), 0);
    let cuts = [(0, 0), (200, angle("B001.mov")), (400, 0)];
    let edits = |angles: &[Value]| {
        let takes = cuts[1..].iter().map(|(at, angle)| take(*at, &angles[*angle]));
        takes.chain([json!({ "do": "dissolve", "index": 2, "frames": 10 })]).collect()
    };
    api.cut(&group, edits).await;
    let moved = tempfile::tempdir().expect("a folder");
    let files = Elsewhere::of(&truth(), &media, moved.path(), |own| !own.path.contains("C002"));
    let on_air = OnAir { day: &day, view: &view, cuts: &cuts, files: &files };
    let axis_s = view["axis_start_s"].as_f64().expect("an axis");
    let frames = view["group"]["frames"].as_u64().expect("frames") as usize;
    for (codec, wrapper, source, other, why) in [
        ("rdd36", "mxf", &a, "B001.mov", "it is coded as h264, the film as RDD 36"),
        ("h264", "mp4", &b, "A001.mov", "it is coded as prores, the film as H.264"),
        ("h264", "mkv", &b, "A001.mov", "it is coded as prores, the film as H.264"),
    ] {
        let recorded = form(codec, wrapper, json!({ "grade": "recorded" }));
        let films = made(&api, order("lines", &json!([group]), recorded)).await;
        let film = films
            .iter()
            .find(|own| own["order"]["form"]["codec"] == codec && own["order"]["form"]["wrapper"] == wrapper)
            .unwrap_or_else(|| panic!("no {codec}: {films:?}"));
        assert_eq!(film["state"], "done", "{film}");
        let path = path_of(&data, film);
        assert!(on_air.hold(&path, 400..410) > 500);
        hold_sound(&path, axis_s, frames);
        let message = film["message"].as_str().expect("a message");
        assert!(message.contains(&format!("of {other} are coded: {why}")), "{message}");
        // As many as are said are the recorded ones to the last bit.
        let share = message.split("as they were recorded (").nth(1).expect("a share");
        let copied: usize = share.split(' ').next().and_then(|own| own.parse().ok()).expect("a count");
        let of_source = hashes(source);
        let there = hashes(&path).iter().filter(|own| of_source.contains(own)).count();
        assert!(there >= copied && copied > 120, "{copied} said, {there} there: {message}");
    }
    // Where every picture is changed none is copied, and that is said.
    let burnt = form("rdd36", "mov", json!({ "grade": "recorded", "burn": { "name": true } }));
    let films = made(&api, order("lines", &json!([group]), burnt)).await;
    let said = films.iter().find(|own| own["order"]["form"]["wrapper"] == "mov").expect("a film");
    let said = said["message"].as_str().expect("a message");
    assert!(said.contains("nothing of it is copied as it was recorded: words are written"), "{said}");
    api.server.stop().await;
}

#[tokio::test]
async fn what_a_camera_left_a_frame_out_of_is_not_copied_as_if_it_had_not() {
    let folder = tempfile::tempdir().expect("a folder");
    let (media, data) = (folder.path().join("media"), folder.path().join("data"));
    metaxis_shoot::copy_folder(&small(), &media).expect("a copy");
    let coded = ["-pix_fmt", "yuv422p10le", "-c:v", "prores_ks", "-profile:v", "lt"];
    let left_out = ["-vf", "select='not(eq(n,100))'", "-fps_mode", "passthrough"];
    code_anew(&media.join("A_FLOOR/A001.mov"), &[&coded[..], &left_out].concat());
    let api = Api::start(config(&data, &[&media])).await;
    api.take_in(&media).await;
    let day = api.sync().await;
    let own = clip(&day, "A001.mov");
    let recorded = form("rdd36", "mov", json!({ "grade": "recorded" }));
    let films = made(&api, order("clips", &json!([own["id"]]), recorded)).await;
    assert_eq!(films[0]["state"], "done", "{films:?}");
    let message = films[0]["message"].as_str().expect("a message");
    assert!(message.contains("could not be copied whole: they are coded"), "{message}");
    assert!(!message.contains("are copied as they were recorded"), "{message}");
    let codes = drawn(&path_of(&data, &films[0]));
    for frame in [0, 50, 99, 101, 102, 300, codes.len() - 2] {
        assert_eq!(codes[frame], Some(frame as u64), "of {}", codes.len());
    }
    api.server.stop().await;
}

#[tokio::test]
async fn a_wall_shows_all_angles_side_by_side_and_a_clip_has_the_recorders_sound() {
    let data = tempfile::tempdir().expect("a folder");
    let (api, day) = synced(data.path()).await;
    let group = day["groups"][0]["id"].clone();
    let view = api.get(&format!("/groups/{group}")).await.1;
    let axis_s = view["axis_start_s"].as_f64().expect("an axis");
    let angles = view["group"]["angles"].as_array().expect("angles").clone();
    let moved = tempfile::tempdir().expect("a folder");
    let files = originals(moved.path());
    let films =
        made(&api, order("walls", &json!([group]), form("h264", "mp4", json!({ "height": 360 })))).await;
    assert_eq!(films[0]["state"], "done", "{films:?}");
    let path = path_of(data.path(), &films[0]);
    for (number, angle) in angles.iter().enumerate() {
        let part = format!("crop=iw/2:ih/2:iw/2*{}:ih/2*{},", number % 2, number / 2);
        let codes = drawn_in(&path, &part);
        let own = &angle["parts"][0];
        let name = day["clips"].as_array().expect("clips").iter().find(|clip| clip["id"] == own["clip"]);
        let file = &files[name.expect("a clip")["file_name"].as_str().expect("text")];
        let at = |what: &str| own[what].as_i64().expect("a frame");
        for frame in (at("from_frame")..at("to_frame")).step_by(7) {
            let code =
                codes[frame as usize].unwrap_or_else(|| panic!("angle {number}: no number at {frame}"));
            assert!(
                file.shows(code, axis_s + (frame as f64 + 0.5) / 25.0),
                "angle {number}: {code} at {frame}"
            );
        }
    }
    hold_sound(&path, axis_s, codes_of(&view));

    // A clip by itself: all of its frames, at its own rate, with the recorder's sound in its place.
    let own = clip(&day, "A001.mov");
    let films =
        made(&api, order("clips", &json!([own["id"]]), form("h264", "mov", json!({ "height": 180 })))).await;
    let film = films.iter().find(|own| own["order"]["of"] == "clip").expect("a clip");
    assert_eq!((&film["state"], &film["path"]), (&json!("done"), &json!("A_FLOOR/A001.mov")), "{film}");
    let path = path_of(data.path(), film);
    let codes: Vec<u64> = drawn(&path).into_iter().map(|own| own.expect("a number")).collect();
    assert_eq!(codes, (0..files["A001.mov"].codes.len() as u64).collect::<Vec<_>>());
    let starts = files["A001.mov"].truth.segments[0].start_s;
    hold_sound(&path, starts, codes.len());

    // Seen through what its device is seen through: half as bright as it is coded.
    let plain = brightness(&path);
    let (_, half) = bring(&api, "half.cube", gain(0.5)).await;
    let see = json!({ "do": "see_through", "device": own["device"], "lut": half["key"] });
    assert_eq!(api.post("/intake/edits", see).await.0, 200);
    let seen = form("h264", "mov", json!({ "height": 180, "through": true }));
    let mut again = order("clips", &json!([own["id"]]), seen);
    again["replace"] = json!(true);
    let films = made(&api, again).await;
    assert!(films.iter().all(|own| own["state"] == "done"), "{films:?}");
    let half = brightness(&path);
    assert!((half - 16.0 - (plain - 16.0) / 2.0).abs() < 2.0, "{plain} became {half}");
    api.server.stop().await;
}

/// The mean of what is coded as brightness in a frame, from 16 to 235.
fn brightness(path: &Path) -> f64 {
    let path = path.to_str().expect("text");
    let args = [
        "-v",
        "error",
        "-ss",
        "2",
        "-i",
        path,
        "-frames:v",
        "1",
        "-pix_fmt",
        "yuv420p",
        "-f",
        "rawvideo",
        "-",
    ];
    let bytes = said("ffmpeg", &args);
    // Two thirds of a frame are brightness.
    let luma = &bytes[..bytes.len() * 2 / 3];
    luma.iter().map(|own| f64::from(*own)).sum::<f64>() / luma.len() as f64
}

fn codes_of(view: &Value) -> usize {
    view["group"]["frames"].as_u64().expect("frames") as usize
}

#[tokio::test]
async fn what_cannot_be_made_is_said_and_the_rest_goes_on() {
    let folder = tempfile::tempdir().expect("a folder");
    // A camera's file of its own, which can go away.
    let media = folder.path().join("media");
    metaxis_shoot::copy_folder(&small(), &media).expect("a copy");
    let data = folder.path().join("data");
    let api = Api::start(config(&data, &[&media])).await;
    api.take_in(&media).await;
    let day = api.sync().await;
    let group = day["groups"][0]["id"].clone();
    let refused = async |order: Value, why: &str| {
        let (status, said) = api.post("/films", order).await;
        assert!(status == 422 || status == 404 || status == 400 || status == 409, "{status} {said}");
        assert!(said.to_string().contains(why), "{said}");
    };
    refused(order("lines", &json!([group]), form("h264", "mxf", json!({}))), "H.264 is not written into mxf")
        .await;
    refused(order("lines", &json!([group]), form("h264", "mov", json!({ "height": 3 }))), "rows of pixels")
        .await;
    refused(order("lines", &json!([99_999]), form("h264", "mov", json!({}))), "no group 99999").await;
    let mut elsewhere = order("lines", &json!([group]), form("h264", "mov", json!({})));
    elsewhere["folder"] = json!("/etc");
    refused(elsewhere, "/etc").await;

    // One whose file is gone fails in words, with nothing under its name; the one behind it is made.
    fs::remove_file(media.join("A_FLOOR/A001.mov")).expect("gone");
    let two = json!([clip(&day, "A001.mov")["id"], clip(&day, "B001.mov")["id"]]);
    let films =
        made(&api, order("clips", &two, form("h264", "mov", json!({ "height": 180, "grade": "small" }))))
            .await;
    let state = |name: &str| {
        films
            .iter()
            .find(|own| own["path"].as_str().is_some_and(|path| path.ends_with(name)))
            .expect("a film")
            .clone()
    };
    let gone = state("A001.mov");
    assert_eq!(gone["state"], "failed", "{gone}");
    assert!(gone["message"].as_str().is_some_and(|own| own.contains("A001.mov")), "{gone}");
    let whole = state("B001.mov");
    assert_eq!(whole["state"], "done", "{whole}");
    assert!(whole["message"].as_str().is_some_and(|own| own.contains("counted, looked at")), "{whole}");
    let left: Vec<PathBuf> = walk(&data.join("films"));
    assert_eq!(left, [path_of(&data, &whole)], "something else is left");

    // What is there stays, unless it is to be replaced.
    fs::write(&left[0], "mine").expect("written");
    let only = json!([clip(&day, "B001.mov")["id"]]);
    let mut again = order("clips", &only, form("h264", "mov", json!({ "height": 120 })));
    let films = made(&api, again.clone()).await;
    let failed = films.iter().find(|own| own["order"]["form"]["height"] == 120).expect("a film");
    assert!(failed["message"].as_str().is_some_and(|own| own.contains("is there already")), "{failed}");
    assert_eq!(fs::read_to_string(&left[0]).expect("text"), "mine");
    again["replace"] = json!(true);
    let films = made(&api, again).await;
    assert!(films.iter().any(|own| own["order"]["replace"] == true && own["state"] == "done"), "{films:?}");
    assert!(fs::metadata(&left[0]).expect("there").len() > 1000);

    // What is done goes out of the queue; what failed stays until somebody takes it out, or wants it again.
    assert_eq!(api.post("/films/done/forget", json!(null)).await.0, 200);
    let films = api.get("/films").await.1["films"].as_array().expect("films").clone();
    assert!(films.iter().all(|own| own["state"] == "failed") && films.len() == 2, "{films:?}");
    for own in &films {
        assert_eq!(api.post(&format!("/films/{}/forget", own["id"]), json!(null)).await.0, 200);
    }
    assert_eq!(api.get("/films").await.1["films"], json!([]));
    assert_ne!(api.post("/films/12345/again", json!(null)).await.0, 200);
    assert!(left[0].is_file(), "a file went with its place in the queue");
    api.server.stop().await;
}

fn walk(folder: &Path) -> Vec<PathBuf> {
    let all = fs::read_dir(folder).expect("a folder").map(|own| own.expect("an entry").path());
    let mut files: Vec<PathBuf> =
        all.flat_map(|own| if own.is_dir() { walk(&own) } else { vec![own] }).collect();
    files.sort();
    files
}

#[tokio::test]
async fn a_film_that_the_server_ended_in_the_midst_of_is_made_at_the_next_start() {
    let data = tempfile::tempdir().expect("a folder");
    let settings = config(data.path(), &[&small()]);
    let (api, day) = synced_with(settings.clone()).await;
    let only =
        json!([clip(&day, "A001.mov")["id"], clip(&day, "B001.mov")["id"], clip(&day, "D001.mp4")["id"]]);
    let wanted = order("clips", &only, form("h264", "mov", json!({ "height": 180 })));
    assert_eq!(api.post("/films", wanted).await.0, 200);
    // The last of them is wanted first.
    let films = api.get("/films").await.1["films"].as_array().expect("films").clone();
    let last = films.last().expect("films")["id"].clone();
    let _ = api.post(&format!("/films/{last}/next"), json!(null)).await;
    api.server.stop().await;

    let api = Api::start(settings).await;
    let films = ended(&api).await;
    assert!(films.iter().all(|own| own["state"] == "done"), "{films:?}");
    assert_eq!(films.len(), 3);
    assert_eq!(walk(&data.path().join("films")).len(), 3);
    api.server.stop().await;
}

#[test]
fn the_command_makes_films_of_a_day_and_none_of_them_twice() {
    let folder = tempfile::tempdir().expect("a folder");
    let (media, out) = (small(), folder.path().join("out"));
    let metaxis = |more: &[&str]| {
        let args = ["turnover", media.to_str().expect("text"), "--out", out.to_str().expect("text")];
        Command::new(env!("CARGO_BIN_EXE_metaxis"))
            .env("XDG_CACHE_HOME", folder.path())
            .args([&args[..], more].concat())
            .output()
            .expect("a run")
    };
    let form = ["--dailies", "--wall", "--rows", "180", "--grade", "small", "--burn-in", "name,timecode"];
    let run = metaxis(&form);
    assert_eq!(run.status.code(), Some(0), "{}", String::from_utf8_lossy(&run.stderr));
    let films = |run: &std::process::Output| {
        let report: Value = serde_json::from_slice(&run.stdout).expect("a report");
        report["films"].as_array().expect("films").clone()
    };
    let first = films(&run);
    let paths: Vec<&str> = first.iter().filter_map(|own| own["path"].as_str()).collect();
    for own in ["A_FLOOR/A001.mp4", "01 1 - 1 wall.mp4"] {
        assert!(paths.contains(&own), "{own} is not among {paths:?}");
        assert!(out.join("films").join(own).is_file());
    }
    let second = films(&metaxis(&form));
    for (one, other) in first.iter().zip(&second) {
        assert_eq!((&one["bytes"], &one["path"]), (&other["bytes"], &other["path"]));
        assert!(one["hash"].is_string() && other["hash"].is_null(), "made twice: {other}");
    }
    // Asked for otherwise, what is there stays, and that is said.
    let run = metaxis(&["--dailies", "--rows", "120"]);
    let why = String::from_utf8_lossy(&run.stderr).into_owned();
    assert_eq!(run.status.code(), Some(1), "{why}");
    assert!(why.contains("files were not made") && why.contains("is there already"), "{why}");
    // What cannot be is said before the work.
    let run = metaxis(&["--wall", "--codec", "h264", "--held-by", "mxf"]);
    let why = String::from_utf8_lossy(&run.stderr).into_owned();
    assert_eq!(run.status.code(), Some(2), "{why}");
    assert!(why.contains("H.264 is not written into mxf") && !why.contains("listening"), "{why}");
}

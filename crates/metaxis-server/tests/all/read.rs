//! A line that another program changed comes back as a line of its own, beside that of the group.

use crate::{
    common::{Api, synced, take},
    named::by_python,
};
use serde_json::{Value, json};
use std::{fs, path::Path};

/// Another program lets the first shot stand ten frames longer, at the cost of the second, puts a marker on the track and one on the
/// second shot, half a second behind its cut, and writes the whole in both forms.
const CHANGE: &str = "
import json, sys, opentimelineio as otio
from opentimelineio.opentime import RationalTime, TimeRange
timeline = otio.adapters.read_from_file(sys.argv[1])
track = timeline.video_tracks()[0]
first, second = [one for one in track if isinstance(one, otio.schema.Clip)][:2]
ten = RationalTime(10, 25)
own, other = first.source_range, second.source_range
first.source_range = TimeRange(own.start_time, own.duration + ten)
second.source_range = TimeRange(other.start_time + ten.rescaled_to(other.start_time), other.duration - ten)
Marker = otio.schema.Marker
track.markers.append(Marker(name='Look', marked_range=TimeRange(RationalTime(100, 25)), color='GREEN'))
start = second.source_range.start_time
second.markers.append(Marker(name='Softer', marked_range=TimeRange(start + RationalTime(0.5, 1).rescaled_to(start)), color='PINK'))
timeline.global_start_time = RationalTime(90000, 25)
otio.adapters.write_to_file(timeline, sys.argv[2])
alone = otio.schema.Timeline('cut', [track.deepcopy()], RationalTime(90000, 25))
otio.adapters.write_to_file(alone, sys.argv[3], 'cmx_3600', rate=25)
print(json.dumps(len(list(track.find_clips()))))";

async fn given(api: &Api, group: &Value, name: &str, bytes: Vec<u8>) -> (u16, Value) {
    let url = api.url(&format!("/groups/{group}/lines/read?name={name}"));
    let answer = api.client.post(url).body(bytes).send().await.expect("an answer");
    let status = answer.status().as_u16();
    (status, answer.json().await.expect("JSON"))
}

#[tokio::test]
async fn a_line_that_another_program_changed_is_kept_beside_the_groups_own() {
    let folder = tempfile::tempdir().expect("a folder");
    let (api, day) = synced(folder.path()).await;
    let group = day["groups"][0]["id"].clone();
    let cuts = [(200, 1), (330, 0), (450, 1)];
    let edits = |angles: &[Value]| cuts.iter().map(|(at, angle)| take(*at, &angles[*angle])).collect();
    let (view, cut) = api.cut(&group, edits).await;
    let angles = &view["group"]["angles"];
    let put = json!({ "do": "put_marker", "marker": { "at": 100, "colour": "plum", "note": "ours" } });
    let put = json!({ "version": cut["version"], "edit": put });
    let (status, cut) = api.post(&format!("/groups/{group}/line"), put).await;
    assert_eq!(status, 200, "{cut}");
    let version = &cut["version"];
    let (status, document) = api.bytes(&format!("/groups/{group}/turnover/line.otio")).await;
    assert_eq!(status, 200);
    let path = |name: &str| folder.path().join(name);
    fs::write(path("line.otio"), &document).expect("written");
    let files = ["line.otio", "changed.otio", "changed.edl"].map(path);
    let shots = by_python(CHANGE, &files.each_ref().map(|own| own.as_path() as &Path));

    // What is not changed is as it is now.
    let (status, read) = given(&api, &group, "same.otio", document).await;
    assert_eq!(status, 200, "{read}");
    assert_eq!(
        (&read["shots"], &read["remarks"], &read["markers"]),
        (&shots, &json!([]), &json!(1)),
        "{read}"
    );
    assert_eq!(read["kept"][0]["other_beside"], false, "{read}");
    assert_eq!(read["kept"][0]["differs"], json!([]));
    // The same of a bundle, whose media is not looked at; an archive of something else is refused in words.
    let (_, bundle) = api.bytes(&format!("/groups/{group}/turnover/line.otioz")).await;
    let (status, read) = given(&api, &group, "same.otioz", bundle).await;
    assert_eq!((status, &read["shots"], &read["kept"][0]["differs"]), (200, &shots, &json!([])), "{read}");
    let (_, archive) = api.bytes("/turnover/everything.zip").await;
    let (status, why) = given(&api, &group, "everything.zip", archive).await;
    assert_eq!(status, 422);
    assert!(why["error"].as_str().is_some_and(|own| own.contains("without a content.otio")), "{why}");
    for name in ["changed.otio", "changed.edl"] {
        let (status, read) = given(&api, &group, name, fs::read(path(name)).expect("there")).await;
        assert_eq!(status, 200, "{read}");
        let kept = &read["kept"][0];
        assert_eq!((&kept["id"], &kept["name"]), (&read["id"], &json!(name)));
        let differs = json!([{ "from": 200, "to": 210, "own": angles[0]["id"], "other": angles[1]["id"] }]);
        assert_eq!(kept["differs"], differs, "{name}: {read}");
        let said = read["remarks"].to_string();
        assert!(said.contains("of the group, whatever its own labels are"), "{name}: {said}");
    }
    // The group's own is as it was, until somebody goes to the other; that is taken back like any step.
    let now = api.get(&format!("/groups/{group}")).await.1;
    assert_eq!(&now["version"], version);
    let kept = api.get(&format!("/groups/{group}/lines")).await.1;
    let changed = |name: &str| kept.as_array().and_then(|all| all.iter().find(|own| own["name"] == name));
    // A list has no such markers: the group's stay.
    assert_eq!(changed("changed.edl").expect("kept")["other_beside"], false, "{kept}");
    let own = changed("changed.otio").expect("kept");
    assert_eq!(own["other_beside"], true, "{kept}");
    let there = format!("/groups/{group}/lines/{}", own["id"]);
    let (status, gone) = api.post(&there, json!({ "version": version })).await;
    assert_eq!(status, 200, "{gone}");
    assert_eq!(gone["line"]["switches"][1]["at"], 210);
    let markers = json!([
        { "at": 100, "colour": "plum", "note": "ours / Look" },
        { "at": 222, "colour": "plum", "note": "Softer" },
    ]);
    assert_eq!(gone["line"]["markers"], markers);
    // There is nothing more to go there for.
    let kept = api.get(&format!("/groups/{group}/lines")).await.1;
    assert_eq!(kept[1]["name"], "changed.otio");
    assert_eq!((&kept[1]["differs"], &kept[1]["other_beside"]), (&json!([]), &json!(false)), "{kept}");

    // What cannot be read is said, with its name, and nothing is kept.
    for (bytes, why) in [
        (
            b"not a document".to_vec(),
            "mine.otio: this is neither an OpenTimelineIO document nor an edit decision list",
        ),
        (br#"{"OTIO_SCHEMA":"Timeline.1"}"#.to_vec(), "mine.otio: there is no shot of a picture track in it"),
        ("[".repeat(1 << 20).into_bytes(), "mine.otio: this is neither"),
    ] {
        let (status, said) = given(&api, &group, "mine.otio", bytes).await;
        assert!(status == 422 || status == 400 || status == 409, "{status} {said}");
        assert!(said.to_string().contains(why), "{said}");
    }
    assert_eq!(api.get(&format!("/groups/{group}/lines")).await.1.as_array().map(Vec::len), Some(4));
    assert_eq!(given(&api, &json!(99_999), "mine.otio", b"{}".to_vec()).await.0, 404);
    api.server.stop().await;
}

//! Readers of our own against bytes that mean them ill: no panic, and nothing kept beyond its bounds.
//! `make fuzz` runs a million cases of each.

use metaxis_media::{find_chunk_in, parse_ixml, probe_json};
use proptest::prelude::*;
use std::io::Cursor;

/// A RIFF file whose chunks may lie about their lengths.
fn riff() -> impl Strategy<Value = Vec<u8>> {
    let name = prop_oneof![
        Just(*b"fmt "),
        Just(*b"data"),
        Just(*b"iXML"),
        Just(*b"ds64"),
        Just(*b"bext"),
        any::<[u8; 4]>()
    ];
    let chunk = (name, any::<u32>(), any::<bool>(), prop::collection::vec(any::<u8>(), 0..40));
    let head = prop_oneof![Just(*b"RIFF"), Just(*b"RF64"), Just(*b"BW64")];
    (head, prop::collection::vec(chunk, 0..6)).prop_map(|(head, chunks)| {
        let mut bytes = head.to_vec();
        bytes.extend(b"\xff\xff\xff\xffWAVE");
        for (name, size, honest, content) in chunks {
            bytes.extend(name);
            bytes.extend(if honest { content.len() as u32 } else { size }.to_le_bytes());
            bytes.extend(content);
        }
        bytes
    })
}

proptest! {
    #[test]
    fn chunks_that_lie_are_passed_over(bytes in riff(), most in 0..200_u64) {
        for id in [*b"iXML", *b"data", *b"none"] {
            if let Some(found) = find_chunk_in(Cursor::new(&bytes), id, most).expect("memory can be read") {
                prop_assert!(found.len() as u64 <= most && found.len() <= bytes.len());
            }
        }
    }

    #[test]
    fn any_bytes_are_no_ixml(bytes in prop::collection::vec(any::<u8>(), 0..300)) {
        let _ = parse_ixml(&bytes);
    }

    #[test]
    fn near_xml_is_read_within_bounds(text in "(<[A-Z/]{1,6}>|</?(SCENE|TAKE|TRACK|NAME|SPEED|BWFXML)>|[a-z&;#0-9]{0,4}){0,60}") {
        let found = parse_ixml(text.as_bytes());
        prop_assert!(found.tracks.len() <= 256);
        prop_assert!(found.scene.is_none_or(|scene| scene.len() <= text.len() + 16));
    }

    #[test]
    fn any_answer_of_the_prober_is_survived(text in "[\\[\\]{}:,\"a-z0-9_. -]{0,200}") {
        let _ = probe_json(text.as_bytes());
        let _ = probe_json(format!("{{\"streams\":[{text}],\"format\":{{}}}}").as_bytes());
    }

    #[test]
    fn numbers_of_streams_are_taken_with_care(
        rate in "[-0-9.e/N]{0,8}", channels in any::<i32>(), start in "[-0-9.einfNa]{0,8}", length in "[-0-9.e]{0,8}"
    ) {
        let json = format!(
            "{{\"streams\":[{{\"codec_type\":\"audio\",\"sample_rate\":\"{rate}\",\"channels\":{channels},\"start_time\":\"{start}\"}},
              {{\"codec_type\":\"video\",\"width\":4,\"height\":4,\"avg_frame_rate\":\"{rate}\",\"nb_frames\":\"{length}\"}}],
              \"format\":{{\"duration\":\"{length}\"}}}}"
        );
        if let Some(facts) = probe_json(json.as_bytes()) {
            prop_assert!(facts.duration_s.is_finite());
        }
    }
}

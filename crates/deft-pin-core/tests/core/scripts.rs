//! Laws of scripts, for any of them: the order of a page is an order, and a script in its frame is the
//! same script.

use deft_pin_core::script::{
    Execution, Frame, ScriptKind, Timeline, Timing, facts, inline_safe, syntax_flaws,
};
use proptest::prelude::*;

fn turn() -> impl Strategy<Value = Timing> {
    let how = prop::sample::select(vec![
        Execution::Classic,
        Execution::Defer,
        Execution::Async,
        Execution::Module,
        Execution::AsyncModule,
        Execution::Never,
        Execution::Ready,
        Execution::Style,
        Execution::Link,
    ]);
    (how, any::<bool>()).prop_map(|(execution, is_loose)| Timing { execution, is_loose })
}

/// Pieces of scripts, some of which are not whole by themselves.
fn script() -> impl Strategy<Value = String> {
    let piece = prop::sample::select(vec![
        "'use strict';", "\"use strict\"", "a()", ";", "\n", "\r\n", "// x", "/* y\n*/", "<!-- z", "\n--> z",
        "-->", "#!x", "var root = 1;", "let root;", "root.id;", "function go() { return this }", "return;",
        "if (root) { go() }", "const value = 2;", "class Dock {}", "`</script>${a}`;",
        "/</script>/.test(b);", "{", "}", "(", ")", "await", "x => x", "\u{2028}", "é",
        "}).call(1);(function(){", "this.a = 1;", "\u{feff}", "export default 1", "new.target", "arguments;",
        "yield", "let let = 1", "a = b",
    ]);
    prop::collection::vec(piece, 0..12).prop_map(|pieces| pieces.concat())
}

fn frame() -> impl Strategy<Value = Frame> {
    let share =
        prop::collection::vec(prop::sample::select(vec!["go", "value", "Dock", "root", "none"]), 0..3);
    let within = prop::option::of(prop::sample::select(vec!["#a", "[title=\"\\\"</script>\"]", "a\nb", "é"]));
    (share, within, any::<bool>()).prop_map(|(share, within, waits)| Frame {
        within: within.map(str::to_owned),
        share: share.into_iter().map(str::to_owned).collect(),
        asked: Vec::new(),
        waits,
        source: "pins/a b.js".to_owned(),
        ..Frame::default()
    })
}

proptest! {
    #[test]
    fn what_comes_before_what_is_an_order(turns in prop::collection::vec(turn(), 0..14)) {
        let timeline = Timeline::new(&turns);
        let all = 0..turns.len();
        for a in all.clone() {
            prop_assert!(!timeline.is_before(a, a));
            for b in all.clone().filter(|b| timeline.is_before(a, *b)) {
                prop_assert!(!timeline.is_before(b, a), "{a} and {b} of {turns:?}");
                for c in all.clone().filter(|c| timeline.is_before(b, *c)) {
                    prop_assert!(timeline.is_before(a, c), "{a}, {b}, {c} of {turns:?}");
                }
            }
            // Those right before are enough to tell all of those before.
            let mut reached = vec![false; turns.len()];
            let mut waiting = vec![a];
            while let Some(at) = waiting.pop() {
                for early in timeline.right_before(at) {
                    if !std::mem::replace(&mut reached[early], true) {
                        waiting.push(early);
                    }
                }
            }
            for b in all.clone() {
                prop_assert_eq!(reached[b], timeline.is_before(b, a));
            }
            prop_assert!(turns[a].execution != Execution::Never || all.clone().all(|b| !timeline.is_before(a, b) && !timeline.is_before(b, a)));
        }
    }

    #[test]
    fn a_script_in_its_frame_is_the_same_script(text in script(), frame in frame()) {
        let framed = frame.around(&text);
        let own = facts(&text, ScriptKind::Confined, &frame.share).flaws;
        prop_assert_eq!(own.is_empty(), syntax_flaws(&framed).is_empty(), "{:?}: {:?}: {}", text, own, framed);
        if own.is_empty() {
            // Every line but the first is where it was, to the letter; what is shared stands behind directives.
            let mut lines = framed.split('\n').skip(1);
            for line in text.split('\n').skip(1).filter(|line| !line.is_empty() && !line.contains("use strict")) {
                prop_assert!(lines.any(|framed| framed == line), "{line:?} of {framed}");
            }
            let safe = inline_safe(&framed);
            prop_assert!(safe.is_none_or(|safe| syntax_flaws(&safe).is_empty()));
        }
    }
}

#[test]
fn what_is_certain_follows_from_how_each_comes_to_its_turn() {
    let timing = |letter: char| Timing {
        execution: match letter.to_ascii_lowercase() {
            'c' => Execution::Classic,
            'd' => Execution::Defer,
            'a' => Execution::Async,
            'm' => Execution::Module,
            'n' => Execution::Never,
            'r' => Execution::Ready,
            's' => Execution::Style,
            _ => Execution::Link,
        },
        is_loose: letter.is_ascii_uppercase(),
    };
    // The timings, and for each the places of those right before it.
    let table = [
        ("ccc", "- 0 1"),
        ("dc", "1 -"),
        ("dd", "- 0"),
        ("mdm", "- 0 1"),
        ("Md", "- -"),
        ("ac", "- -"),
        ("caad", "- 0 0 0"),
        ("lc", "- 0"),
        ("Lc", "- -"),
        ("la", "- -"),
        ("lca", "- 0 1"),
        ("dl", "1 -"),
        ("sl", "- 0"),
        ("ls", "- -"),
        ("cnc", "- - 0"),
        ("sa", "- 0"),
        ("rcdMr", "2 - 1 2 0"),
    ];
    for (timings, expected) in table {
        let turns_of: Vec<Timing> = timings.chars().map(timing).collect();
        let timeline = Timeline::new(&turns_of);
        let drawn: Vec<String> = (0..turns_of.len())
            .map(|late| {
                let all: Vec<String> = timeline.right_before(late).iter().map(usize::to_string).collect();
                if all.is_empty() { "-".to_owned() } else { all.join(",") }
            })
            .collect();
        assert_eq!(drawn.join(" "), expected, "{timings}");
    }
}

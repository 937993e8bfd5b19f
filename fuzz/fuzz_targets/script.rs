//! Any script: its facts, the function that it runs in, and its text for a page.

#![no_main]

use deft_pin_core::script::{Frame, ScriptKind, facts, inline_safe, syntax_flaws};
use libfuzzer_sys::fuzz_target;

fuzz_target!(|input: (&str, bool)| {
    let (text, waits) = input;
    for kind in [ScriptKind::Classic, ScriptKind::Module, ScriptKind::Confined] {
        facts(text, kind, &["share".to_owned()]);
    }
    let frame = Frame {
        within: waits.then(|| "#a".to_owned()),
        share: vec!["share".to_owned()],
        waits,
        source: "a.js".to_owned(),
        ..Frame::default()
    };
    let own = facts(text, ScriptKind::Confined, &frame.share).flaws;
    let framed = frame.around(text);
    if own.is_empty() {
        assert!(syntax_flaws(&framed).is_empty(), "{framed}");
    }
    if let Some(safe) = inline_safe(&framed) {
        let lower = safe.to_ascii_lowercase();
        assert!(!lower.contains("</script") && !lower.contains("<!--"), "{safe}");
        assert_eq!(syntax_flaws(&safe).is_empty(), syntax_flaws(&framed).is_empty(), "{safe}");
    }
});

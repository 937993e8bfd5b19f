//! Live pages held against what was published for them.

use deft_pin_core::live::{
    Archive, AssetText, Held, HeldPage, PartKind, PartLook, PublishedPart, ServedPage, elements_of, held,
    nodes_of, squeezed,
};

const STYLE: &str = "<style data-deft-pin=\"tint\">\n.fares td { color: teal; padding: 4px }\n</style>";
const OLD_STYLE: &str = "<style data-deft-pin=\"tint\">.fares td { color: navy; padding: 2px }</style>";
const SCRIPT: &str = "<script data-deft-pin=\"tint\">document.title = 'Fares of the winter';</script>";
const SOURCE: &str = "td { color: teal; padding: 4px; /* as it was written */ }";

fn parts(html: &str, piece: Option<&str>) -> Vec<PublishedPart> {
    let part = |(name, kind, element)| PublishedPart {
        name,
        pins: vec!["tint".to_owned()],
        kind,
        look: PartLook::Element(element),
        piece: piece.map(str::to_owned),
    };
    elements_of(html).into_iter().map(part).collect()
}

fn part(kind: PartKind, look: PartLook) -> PublishedPart {
    PublishedPart { name: Some("tint".to_owned()), pins: vec!["tint".to_owned()], kind, look, piece: None }
}

/// What is said of a page: a line for each part.
fn said(
    latest: &[PublishedPart],
    earlier: &[PublishedPart],
    page: &str,
    assets: &[AssetText],
) -> Vec<String> {
    let mut archive = Archive::default();
    archive.add_source("tint", PartKind::Style, SOURCE);
    earlier.iter().for_each(|part| archive.add(2, part));
    latest.iter().for_each(|part| archive.add(3, part));
    let served = ServedPage::read(page.as_bytes());
    let rows = held(&HeldPage {
        page: &served,
        assets: &assets.iter().collect::<Vec<_>>(),
        parts: &latest.iter().collect::<Vec<_>>(),
        others: &[],
        archive: &archive,
        release: 3,
        has_run: false,
    });
    let line = |row: &Held| {
        let release = row.release.map(|own| format!(" {own}")).unwrap_or_default();
        format!("{} {}{release}: {}", row.kind.name(), row.state.name(), row.message)
    };
    rows.iter().map(line).collect()
}

/// Each expectation is the beginning of what is said; behind `…` something that is in it.
fn expect(said: &[String], expected: &[&str], case: &str) {
    assert_eq!(said.len(), expected.len(), "{case}: {said:#?}");
    for (said, expected) in said.iter().zip(expected) {
        let (start, inside) = expected.split_once('…').unwrap_or((expected, ""));
        assert!(said.starts_with(start) && said.contains(inside), "{case}: `{said}`, not `{expected}`");
    }
}

#[test]
fn parts_of_a_page_are_live_stale_missing_doubled_altered_or_stray() {
    let latest = parts(&format!("{STYLE}{SCRIPT}"), Some("page-fares-head"));
    let earlier = parts(OLD_STYLE, Some("page-fares-head"));
    let bare = |html: &str| html.replace(" data-deft-pin=\"tint\"", "");
    let changed = |from: &str, to: &str| format!("{STYLE}{SCRIPT}").replace(from, to);
    let live = "script live 3: ";
    let table: Vec<(String, Vec<&str>)> = vec![
        (format!("{STYLE}{SCRIPT}"), vec!["style live 3: ", live]),
        // What hosts do without harm: blanks, case, quotes, order, attributes of their own.
        (format!("{SCRIPT}\n\n{STYLE}"), vec!["style live 3: ", live]),
        (
            changed(
                "<style data-deft-pin=\"tint\">\n", "<STYLE type='text/css' nonce=a1 data-deft-pin=tint>",
            ),
            vec!["style live 3: ", live],
        ),
        (changed("color: teal; padding: 4px", "color:teal;padding:4px"), vec!["style live 3: ", live]),
        (changed(".fares td", "/* by the host */ .fares td"), vec!["style live 3: …shorter", live]),
        (
            bare(&format!("{STYLE}{SCRIPT}")),
            vec!["style live 3: …without its mark", "script live 3: …without its mark"],
        ),
        // An old copy, marked or not.
        (format!("{OLD_STYLE}{SCRIPT}"), vec!["style stale 2: release 2 is there", live]),
        (format!("{}{SCRIPT}", bare(OLD_STYLE)), vec!["style stale 2: …without its mark", live]),
        // Nothing of it; and only one of two.
        (String::new(), vec!["style missing: nothing of `page-fares-head`", "script missing: nothing of"]),
        (STYLE.to_owned(), vec!["style live 3: ", "script altered: …taken out by the host"]),
        // Twice: as it is, without its mark, as it was written, among other code, an old one beside it.
        (format!("{STYLE}{SCRIPT}{STYLE}"), vec!["style doubled 3: …again on line 3", live]),
        (format!("{STYLE}{SCRIPT}\n{}", bare(STYLE)), vec!["style doubled 3: …again on line 4", live]),
        (
            format!("{STYLE}{SCRIPT}<style>{SOURCE}</style>"),
            vec!["style doubled 3: …as it stands in the pin's file", live],
        ),
        // So little code may stand there by chance.
        (
            format!(
                "{STYLE}{SCRIPT}<style>h1 {{ margin: 0 }} .fares td {{ color: teal; padding: 4px }} p {{ margin: 0 }}</style>"
            ),
            vec!["style live 3: ", live],
        ),
        (format!("{OLD_STYLE}{STYLE}{SCRIPT}"), vec!["style doubled 3: …that of release 2 on line 1", live]),
        // Changed: the text, the tag, the attributes, the tag gone.
        (changed("teal", "red"), vec!["style altered: its text is another one", live]),
        (
            changed("<style data", "<style media=print data"),
            vec!["style altered: …`media=\"print\"` instead of no `media`", live],
        ),
        (
            changed("<script data", "<script type=module data"),
            vec!["style live 3: ", "script altered: …`type=\"module\"`"],
        ),
        (
            changed("<script data-deft-pin=\"tint\">", "<p>").replace("</script>", "</p>"),
            vec!["style live 3: ", "script altered: the tag `<script>` is gone"],
        ),
        // Of no release.
        (
            format!("{STYLE}{SCRIPT}<style data-deft-pin=\"banner\">h1 {{ color: red }}</style>"),
            vec!["style live 3: ", live, "style stray: …of no release"],
        ),
        (
            format!("{STYLE}{SCRIPT}<style data-deft-pin=\"tint\">h1 {{ color: red }}</style>"),
            vec!["style live 3: ", live, "style stray: …of no release"],
        ),
        // In a frame.
        (
            format!("<iframe srcdoc='{}'></iframe>", format!("{STYLE}{SCRIPT}").replace('\'', "&#39;")),
            vec!["style live 3: ", live],
        ),
    ];
    for (page, expected) in table {
        let page = format!("<!doctype html><body>{page}");
        expect(&said(&latest, &earlier, &page, &[]), &expected, &page);
    }
}

/// A piece that was not pasted again since is not one that the host has changed.
#[test]
fn what_came_with_the_last_release_has_not_been_pasted_yet() {
    let latest = parts(&format!("{STYLE}{SCRIPT}"), Some("site-head"));
    let earlier = parts(STYLE, Some("site-head"));
    let page = format!("<!doctype html>{STYLE}");
    expect(
        &said(&latest, &earlier, &page, &[]),
        &["style live 3: ", "script missing: …paste it again"],
        "old",
    );
    expect(
        &said(&latest, &latest, &page, &[]),
        &["style live 3: ", "script altered: …taken out"],
        "stripped",
    );
    expect(
        &said(&latest, &[], &page, &[]),
        &["style live 3: ", "script altered: …taken out"],
        "stripped at once",
    );
}

#[test]
fn files_are_known_by_their_names() {
    let link = |hash: &str| {
        format!("<link rel=\"stylesheet\" href=\"../_pins/tint.{hash}.css\" data-deft-pin=\"tint\">")
    };
    let (latest, earlier) = (parts(&link("bb"), None), parts(&link("aa"), None));
    let at = |address: &str| format!("<link rel=stylesheet href={address} data-deft-pin=tint>");
    let table = [
        (at("https://cdn.sorrel.example/x/tint.bb.css?v=1"), vec!["style live 3: "]),
        (at("/_pins/tint.aa.css"), vec!["style stale 2: "]),
        (at("/_pins/tint.cc.css"), vec!["style altered: it links"]),
        (format!("{}{}", at("/_pins/tint.bb.css"), at("/_pins/tint.bb.css")), vec!["style doubled 3: "]),
        (
            format!("{}{}", at("/_pins/tint.bb.css"), at("/_pins/tint.aa.css")),
            vec!["style doubled 3: …that of release 2"],
        ),
        (String::new(), vec!["style missing: `tint.bb.css`"]),
        ("<link rel=icon href=/_pins/tint.bb.css>".to_owned(), vec!["style missing: "]),
    ];
    for (page, expected) in table {
        expect(&said(&latest, &earlier, &page, &[]), &expected, &page);
    }
}

#[test]
fn code_from_boxes_of_code_is_found_wherever_the_host_puts_it() {
    let rule = |colour: &str| format!("body.fares td {{ color: {colour}; padding: 4px; margin: 0 auto }}");
    let code = |text: &str| {
        vec![part(PartKind::Style, PartLook::Code { text: text.to_owned(), squeezed: squeezed(text) })]
    };
    let (latest, earlier) = (code(&rule("teal")), code(&rule("navy")));
    let asset = |text: &str| AssetText::new("http://x/custom.css".to_owned(), PartKind::Style, text);
    let style =
        |text: &str| format!("<style id=custom>h1 {{ margin: 0 }}\n{text}\nh2 {{ margin: 0 }}</style>");
    let table = [
        (style(&rule("teal")), None, "style live 3: "),
        (String::new(), Some(asset(&format!("h1 {{}} {}", rule("teal")))), "style live 3: "),
        (style(&rule("teal")), Some(asset(&rule("teal"))), "style doubled 3: …`http://x/custom.css`"),
        (style(&rule("navy")), None, "style stale 2: "),
        (style("body.fares td{color:teal;padding:4px;margin:0 auto}"), None, "style live 3: "),
        (
            style("body.fares td { color: teal; padding: 5px; margin: 0 auto }"),
            None,
            "style altered: …another text on line 1",
        ),
        (String::new(), None, "style missing: "),
    ];
    for (page, asset, expected) in table {
        let assets: Vec<AssetText> = asset.into_iter().collect();
        expect(&said(&latest, &earlier, &page, &assets), &[expected], &page);
    }
}

#[test]
fn markup_and_names_are_found_by_what_they_are() {
    let nodes = |text: &str| {
        let look = PartLook::Nodes { trees: nodes_of(text), text: text.to_owned(), times: 1 };
        vec![part(PartKind::Markup, look)]
    };
    let notice = "<p class=\"notice wide\" id=gale>No sailings <b>today</b> from Marram</p>";
    let latest = nodes(notice);
    let earlier = nodes("<p class=\"notice\">No sailings this morning</p>");
    let table = [
        (notice.to_owned(), "markup live 3: "),
        (
            "<P id='gale' class='notice  wide'>No sailings\n <b>today</b> from Marram</P>".to_owned(),
            "markup live 3: ",
        ),
        (format!("{notice}<div>{notice}</div>"), "markup doubled 3: …2 times"),
        ("<p class=\"notice\">No sailings this morning</p>".to_owned(), "markup stale 2: "),
        (notice.replace("today", "tonight"), "markup altered: other elements or texts"),
        (notice.replace("<b>", "").replace(" id=gale", ""), "markup altered: its words"),
        ("<p>Sailings today</p>".to_owned(), "markup missing: "),
    ];
    for (page, expected) in table {
        expect(&said(&latest, &earlier, &page, &[]), &[expected], &page);
    }
    let marks = vec![part(
        PartKind::Mark,
        PartLook::Names { id: Some("rates".to_owned()), classes: vec!["big".to_owned()] },
    )];
    let table = [
        ("<h2 id=rates class='a big'>", "mark live 3: "),
        ("<h2 id=rates>", "mark missing: no element has the class `big`"),
        ("<h2 class=big>", "mark missing: no element has the ID `rates`"),
        ("<h2 id=rates class=big></h2><h2 id=rates>", "mark doubled 3: 2 elements"),
    ];
    for (page, expected) in table {
        expect(&said(&marks, &[], page, &[]), &[expected], page);
    }
}

/// A sheet that is kept back until a script lets it count has another tag then.
#[test]
fn what_scripts_have_let_through_is_the_same() {
    let guarded = STYLE.replace("data-deft-pin", "media=\"not all\" data-deft-pin");
    let latest =
        parts(&format!("{guarded}<script data-deft-pin>let (it) = through;</script>"), Some("site-head"));
    let archive = Archive::default();
    let run = |page: &str, has_run: bool| {
        let served = ServedPage::read(page.as_bytes());
        let parts: Vec<&PublishedPart> = latest.iter().collect();
        let of = HeldPage {
            page: &served,
            assets: &[],
            parts: &parts,
            others: &[],
            archive: &archive,
            release: 1,
            has_run,
        };
        held(&of).iter().map(|row| row.state.name()).collect::<Vec<_>>()
    };
    let after = format!("{STYLE}<script data-deft-pin>let (it) = through;</script>");
    assert_eq!(run(&after, true), ["live", "live"]);
    assert_eq!(run(&after, false), ["altered", "live"]);
    assert_eq!(run(&guarded, false), ["live", "altered"]);
}

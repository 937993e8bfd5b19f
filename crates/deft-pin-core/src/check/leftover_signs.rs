//! Texts that a template left to be filled in: an address, an ID, a key, a font, a sentence.

use std::ops::Range;
use std::sync::LazyLock;

use regex::Regex;

/// What belongs at the place of a text.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub(super) enum Belongs {
    /// Anything: only what is plainly a template's is told.
    Anything,
    /// A text to be read.
    Prose,
    /// An address.
    Address,
    /// An ID, a class, or the value of an attribute.
    Name,
    /// A key, or the identifier that a service gave.
    Key,
    /// The name of a font.
    Font,
}

/// What is left over, where, and what belongs there.
struct Sign {
    /// Where it is one; empty for everywhere.
    at: &'static [Belongs],
    pattern: &'static str,
    help: &'static str,
}

const OWN: &str = "write your own there";
const IDENTIFIER: &str = "write the identifier that the service gave you";
const ADDRESS: &str = "write the address that is meant";
const TEXT: &str = "write the text that is meant";
const FONT: &str = "write the name of the font";

/// The signs of something that was to be filled in. What a sign calls `own` is told, or else all of it.
const SIGNS: &[Sign] = &[
    Sign { at: &[], pattern: r"\b(?:[A-Z]+[-_])*YOUR(?:[-_ ][A-Z0-9]+)+\b", help: OWN },
    Sign { at: &[], pattern: r"\bYOUR(?:[A-RT-Z][A-Z0-9]|S[A-DF-Z0-9])[A-Z0-9]*\b", help: OWN },
    Sign {
        at: &[],
        pattern: r"\byour[-_](?:[a-z]+[-_]){0,2}(?:id|key|token|secret|domain|site|account|username|name|url|link|page|post|product|path|slug|email|phone|address|number|container|pixel|measurement|tracking|project|element|section|block|class|selector|form|video|image|file|font|colou?r|title|text|company|brand|store|shop|app|api|code)(?:[-_]here)?\b",
        help: OWN,
    },
    Sign {
        at: &[],
        pattern: r"\byour(?:id|key|token|domain|site|website|account|username|url|link|page|email|company|font|colou?r|text|image)(?:here)?\b",
        help: OWN,
    },
    Sign {
        at: &[],
        pattern: r"[\[<{(](?:INSERT|ENTER|REPLACE|PASTE|ADD|YOUR)[ _-][A-Z0-9 _-]+[\]>})]",
        help: OWN,
    },
    Sign {
        at: &[],
        pattern: r"[\[<](?i:insert|enter|replace with|paste|add|your) [a-z][a-z ]*(?: here)?[\]>]",
        help: OWN,
    },
    Sign {
        at: &[],
        pattern: r"\b(?:INSERT|ENTER|REPLACE|PASTE)[_ -](?:[A-Z0-9]+[_ -])*(?:HERE|ID|KEY|TOKEN|URL|LINK|NAME|CODE|TEXT|DATE|IMAGE|VIDEO|FONT)\b",
        help: OWN,
    },
    Sign {
        at: &[],
        pattern: r"\b(?:[A-Z0-9]+[_ -])*(?:IDS?|KEY|TOKEN|URL|LINK|NAME|TEXT|TITLE|CODE|EMAIL|ADDRESS|IMAGE|VIDEO|FILE|FONT|DATE|NUMBER|PATH|DOMAIN|HTML|SCRIPT|CONTENT|COLOU?R)[_ -](?:GOES[_ -])?HERE\b",
        help: OWN,
    },
    Sign {
        at: &[],
        pattern: r"^(?:CHANGE|REPLACE|EDIT|FILL)[ _-]?(?:ME|THIS|IN)$|^(?:changeme|change-me|replace-me|replace-this|change_me)$",
        help: OWN,
    },
    Sign { at: &[], pattern: r"^(?:##[A-Z][A-Z0-9_ -]*##|%%[A-Za-z][A-Za-z0-9_ -]*%%)$", help: OWN },
    Sign {
        at: &[],
        pattern: r"\b(?:[A-Z]{1,4}-)X{3,}(?:-[X0-9]+)*\b|(?:\b|_)(?P<own>X{6,})\b",
        help: IDENTIFIER,
    },
    Sign {
        at: &[Belongs::Prose],
        pattern: r"\$X+(?:[.,]X+)?|\bXX?[/.]XX?[/.]XX(?:XX)?\b|\bXX:XX\b",
        help: TEXT,
    },
    Sign {
        at: &[Belongs::Prose, Belongs::Address],
        pattern: r"\b(?:555[-. ]555[-. ]5555|123[-. ]456[-. ]7890|1?234567890)\b",
        help: "write the number that is meant",
    },
    Sign {
        at: &[],
        pattern: r"(?i)//(?:(?:www\.)?example\.(?:com|org|net)|(?:[a-z0-9-]+\.)*(?:your|my)-?(?:site|domain|website|company|store|shop|server|app|project)\.[a-z]{2,}|(?:www\.)?(?:domain|sitename|website)\.(?:com|org|net|tld))(?:[^a-z0-9.-]|$)",
        help: ADDRESS,
    },
    // In running text it is an example.
    Sign {
        at: &[],
        pattern: r"(?i)^(?:https?:)?//(?:[a-z0-9-]+\.)+example\.(?:com|org|net)(?:[^a-z0-9.-]|$)",
        help: ADDRESS,
    },
    Sign {
        at: &[],
        pattern: r"(?i)//(?:[a-z0-9-]+\.)*placehold(?:er)?\.[a-z]{2,}\b",
        help: "write the address of the picture that is meant",
    },
    Sign {
        at: &[],
        pattern: r"(?i)@(?:example|your-?[a-z]+|mydomain|mysite|mycompany)\.(?:com|org|net)\b|\b(?:user|username|name|your\.?name|your\.?email|email|you|me)@(?:email|domain|company|website|site)\.com\b",
        help: ADDRESS,
    },
    // As a part of an address, a name in capitals.
    Sign {
        at: &[],
        pattern: r"//[^\s/]+/[^\s]*?[/=](?P<own>(?:[A-Z0-9]+[_-])+(?:ID|KEY|TOKEN|HASH|NAME|NUMBER))(?:[/?&#]|$)",
        help: OWN,
    },
    Sign { at: &[], pattern: r"(?i)\b(?:lorem ipsum|dolor sit amet|consectetur adipiscing)\b", help: TEXT },
    Sign {
        at: &[Belongs::Prose],
        pattern: r"^(?i:(?:your|insert|enter|add|some|put|the|button|link|main|page|section) )*(?i:text|title|heading|headline|subtitle|content|copy|description|caption|label|button|link|name)(?i: goes)? (?i:here)[.!]?$",
        help: TEXT,
    },
    Sign {
        at: &[Belongs::Prose],
        pattern: r"(?i)\[(?:[a-z]+ ){0,3}(?:name|date|time|title|text|link|url|email|phone|address|price|company|number|image|city)\]",
        help: TEXT,
    },
    // All of an address.
    Sign {
        at: &[Belongs::Address],
        pattern: r"^[<\[{]*(?:[A-Z0-9]+[ _-])*(?:URL|LINK|ADDRESS|HREF|SRC)(?:[ _-](?:HERE|URL|LINK))?[>\]}]*$|^(?:[a-z]+[-_ ])+(?:url|link)(?:[-_ ]here)?$|^/?(?:[a-z]+-)+(?:url|link)-here$",
        help: ADDRESS,
    },
    Sign {
        at: &[Belongs::Address],
        pattern: r"^(?:/|\#)?your-?(?:page|link|url|image|video|file)(?:\.[a-z]+)?$",
        help: ADDRESS,
    },
    // All of a name.
    Sign {
        at: &[Belongs::Name],
        pattern: r"^[<\[]*(?:[A-Za-z0-9]+[-_])*(?:[A-Z0-9]+[ _-])+(?:IDS?|HERE|NAME|CLASS|NUMBER)[>\]]*$|^(?:[A-Za-z0-9]+[-_])*(?:x{5,}|X{3,})$|^[<\[](?:[a-z]+ )+(?:id|name|class|number|here)[>\]]$",
        help: OWN,
    },
    // All of a key.
    Sign {
        at: &[Belongs::Key],
        pattern: r"^[<\[{]*(?:[A-Z0-9]+[ _-])+(?:ID|KEY|TOKEN|SECRET|CODE|NUMBER)[>\]}]*$|^[<\[{](?i:[a-z]+[ _-])*(?i:id|key|token|secret|code)[>\]}]$|^[<\[]{2}(?:[A-Z0-9]+[ _-])*(?:ID|KEY|TOKEN|SECRET|CODE)[>\]]{2}$|^(?:[a-z]{2,4}[-_])*x{8,}$|^[A-Z0-9]*X{4,}[A-Z0-9]*$",
        help: IDENTIFIER,
    },
    // All of a font's name.
    Sign {
        at: &[Belongs::Font],
        pattern: r"^(?i:(?:your|my|the)[ _-]?(?:custom[ _-]?)?font(?:[ _-]?(?:name|family))?(?:[ _-]?here)?|(?:custom[ _-]?)?font[ _-]name(?:[ _-]?here)?)$|^(?:FONT[ _-]FAMILY|Font Family)$",
        help: FONT,
    },
];

/// The signs, made ready.
static EACH: LazyLock<Vec<Regex>> =
    LazyLock::new(|| SIGNS.iter().map(|sign| pattern(sign.pattern)).collect());

/// What any text has that may hold a sign. Few texts have it, and those alone are cut into their parts.
static ANY: LazyLock<Regex> = LazyLock::new(|| {
    pattern(
        r"YOUR|(?i:[^a-z]your[-_ ]?[a-z])|INSERT|ENTER|REPLACE|PASTE|[\[<(]ADD|X{3}|x{5}|XX|//[^\s]*(?i:example|domain|website|sitename|site\.|placehold|shop\.|store\.|app\.|company\.|server\.|project\.)|@(?i:example|my|email|domain|company|website|site)|HERE|(?i:[ _-]here)|(?i:change|replace|edit|fill)[ _-]?(?i:me|this|in)\b|##|%%|(?i:lorem|dolor sit|consectetur)|\bIDS?\b|_ID\b|KEY\b|TOKEN\b|SECRET\b|CODE\b|HASH\b|NAME\b|CLASS\b|NUMBER\b|URL\b|LINK\b|ADDRESS\b|HREF\b|SRC\b|\$X|555[-. ]555|123[-. ]456|234567890|[-_ ](?:url|link)\b|\[[A-Za-z ]+\]|[<{](?:[a-z]+[ _-])*(?:id|key|token|secret|code)[>}]|(?i:font[ _-]?(?:name|family)|your[ _-]?font|my[ _-]?font)",
    )
});

fn pattern(text: &str) -> Regex {
    #[allow(clippy::expect_used, reason = "the patterns are our own, and a test reads all of them")]
    Regex::new(text).expect("a pattern of our own")
}

/// Whether a whole file may have something in it that was to be filled in.
pub(super) fn may_have_any(text: &str) -> bool {
    ANY.is_match(text)
}

/// What in a text was to be filled in, with what belongs there.
pub(super) fn signs_in(text: &str, belongs: Belongs) -> Vec<(Range<usize>, &'static str)> {
    let own: Vec<_> = SIGNS
        .iter()
        .zip(EACH.iter())
        .filter(|(sign, _)| sign.at.is_empty() || sign.at.contains(&belongs))
        .collect();
    let mut found: Vec<(Range<usize>, &'static str)> = Vec::new();
    for (sign, regex) in own {
        for hit in regex.captures_iter(text) {
            let Some(whole) = hit.name("own").or_else(|| hit.get(0)) else { continue };
            // What ends an address is no part of it.
            let end = whole.as_str().trim_end_matches(['/', '?', '#', '&', ' ', ':', ',']).len();
            found.push((whole.start()..whole.start() + end, sign.help));
        }
    }
    found
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_was_left_to_be_filled_in_is_known() {
        use Belongs::*;
        let known = [
            (
                Anything,
                &[
                    "YOUR_API_KEY", "YOUR-ID", "your-api-key", "your_tracking_id_here", "<YOUR PIXEL ID>",
                    "[INSERT DATE]", "[your name]", "G-XXXXXXXXXX", "UA-XXXXX-X", "GTM-XXXX",
                    "https://example.com/a.js", "//www.yoursite.com", "info@yourdomain.com",
                    "Lorem ipsum dolor", "XXXXXXXX", "REPLACE_WITH_YOUR_KEY", "ENTER_ID",
                    "[enter your name here]", "https://api.example.com/v1?key=1", "pk_test_XXXXXXXXXXXX",
                    "LINK HERE", "API_KEY_HERE", "block-YOURBLOCKID", "CHANGE ME", "changeme", "##KEY##",
                    "https://maps.sorrelsound.test/v1?key=API_KEY", "https://film.test/embed/VIDEO_ID",
                    "you@yourcompany.com", "username@email.com", "https://placehold.co/600x400",
                    "#yourcolor", "consectetur adipiscing elit",
                ][..],
            ),
            (
                Prose,
                &[
                    "Your text here", "Title goes here.", "Text here", "[Name]", "[Pier name]", "XX/XX/XXXX",
                    "$XX.XX", "555-555-5555",
                ],
            ),
            (
                Address,
                &[
                    "URL", "IMAGE_URL", "IMAGE URL", "image-url", "PAGE LINK HERE", "/your-page",
                    "tel:+1234567890",
                ],
            ),
            (
                Name,
                &[
                    "ELEMENT_ID", "ID-HERE", "block-xxxxxxxx", "xxxxx", "collection-XXXXX", "SECTION ID",
                    "[element id]",
                ],
            ),
            (
                Key,
                &[
                    "API_KEY", "<API_KEY>", "[[KEY]]", "VIDEO_ID", "<key>", "{site key}", "xxxxxxxxxxxx",
                    "XXXX",
                ],
            ),
            (
                Font,
                &["Font Name", "YourFont", "Your Font Name", "FONT NAME HERE", "My Font", "custom-font-name"],
            ),
        ];
        for (belongs, texts) in known {
            for text in texts {
                assert!(!signs_in(text, belongs).is_empty(), "{belongs:?} {text}");
                assert!(may_have_any(&format!("\"{text}\"")), "{text}");
            }
        }
        let others = [
            (
                Anything,
                &[
                    "your bookmark", "Your ticket", "https://cdn.test/x.js", "xxxxxxxx-xxxx-4xxx", "[A-Z]",
                    "<DIV>", "XXL", "MMXXVI", "XXX", "your-seat", "sample.com", "examples.company",
                    "[data-id]", "INSERT", "ENTER", "example", "YOURS", "add-on", "<input>", "[role]",
                    "MAX-WIDTH", "API_KEY", "CHANGE_ID", "YOURSELF", "CLICK HERE", "Start here",
                    "font-family", "[name]", "https://notexample.com/", "yourself",
                    "https://mydomain.computer.test/x", "https://sorrelsound.test/pages/FERRY", "changement",
                    "xxxxxxxx", "https://website.common.test/",
                ][..],
            ),
            (
                Prose,
                &[
                    "Buy your ticket here", "Press the button here and wait", "[edit]", "555",
                    "Extra large: XXL", "MM/DD/YYYY", "Enter your name",
                ],
            ),
            (Address, &["/fares/", "#", "/links", "curl", "fares.html", "/your-seat", "SCHEDULE", "blink"]),
            (Name, &["map", "ID", "FARES", "user-id", "xx", "[hidden]", "boxes"]),
            (Key, &["abc123XYZ", "KEY", "<div>", "AIzaXq", "primary-key", "xx-large"]),
            (Font, &["Fonthausen", "Inter", "Font Awesome 6 Free", "My Sans"]),
        ];
        for (belongs, texts) in others {
            for text in texts {
                assert_eq!(signs_in(text, belongs), [], "{belongs:?} {text}");
            }
        }
    }
}

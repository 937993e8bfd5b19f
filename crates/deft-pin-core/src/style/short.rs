//! Sheets without comments and without the blanks that only people need.

use cssparser::{ParseError, Parser, Token};

/// A sheet that says the same with less text: no comments, one blank for several, and none beside braces and
/// semicolons. Strings and addresses stay as they are.
pub fn short(text: &str) -> String {
    let mut out = String::with_capacity(text.len());
    walk(text, &mut Parser::new(text), &mut out);
    let kept = out.trim();
    if kept.len() < text.len() { kept.to_owned() } else { text.to_owned() }
}

fn walk(text: &str, input: &mut Parser<'_>, out: &mut String) {
    // What parted two pieces: nothing, a comment, or a blank.
    let mut parted = "";
    loop {
        let start = input.position().byte_index();
        let Ok(token) = input.next_including_whitespace_and_comments().cloned() else { break };
        let written = &text[start..input.position().byte_index()];
        match token {
            Token::WhiteSpace(_) => {
                parted = " ";
                continue;
            }
            Token::Comment(_) => {
                parted = if parted == " " { " " } else { "/**/" };
                continue;
            }
            _ => {}
        }
        part(out, parted, written);
        parted = "";
        out.push_str(written);
        let closer = match token {
            Token::Function(_) | Token::ParenthesisBlock => ")",
            Token::SquareBracketBlock => "]",
            Token::CurlyBracketBlock => "}",
            _ => continue,
        };
        let _: Result<(), ParseError<()>> = input.parse_nested_block(|input| {
            walk(text, input, out);
            Ok(())
        });
        if text[..input.position().byte_index()].ends_with(closer) {
            if closer == "}" {
                while out.ends_with([' ', ';']) {
                    out.pop();
                }
            }
            out.push_str(closer);
        }
    }
    if parted == " " && !out.ends_with(['{', '}', ';', ' ']) {
        out.push(' ');
    }
}

/// Writes what has to stand between two pieces.
fn part(out: &mut String, parted: &str, next: &str) {
    let is_beside = |c: char| matches!(c, '{' | '}' | ';');
    if parted.is_empty() || out.is_empty() || out.ends_with(is_beside) || next.starts_with(is_beside) {
        return;
    }
    match parted {
        " " => out.push(' '),
        // A comment parts two words as a blank does, and does not mean one: it goes where they would stay two.
        comment => {
            let is_word = |c: char| {
                c.is_alphanumeric()
                    || !c.is_ascii()
                    || matches!(c, '-' | '_' | '\\' | '#' | '@' | '%' | '.' | '+' | '/')
            };
            if out.ends_with(is_word) && next.starts_with(|c| is_word(c) || c == '(') {
                out.push_str(comment);
            }
        }
    }
}

#[cfg(test)]
mod tests {
    use super::short;

    #[test]
    fn what_only_people_need_goes() {
        let table = [
            ("a { color: red; }\n\n/* x */\nb  c {\n  top: 0;\n}\n", "a{color: red}b c{top: 0}"),
            ("a/**/b { x: \"a  /* b */\" }", "a/**/b{x: \"a  /* b */\"}"),
            (
                "@media (min-width: 1px)  and (a) { a { b: calc(1px + 2px) } }",
                "@media (min-width: 1px) and (a){a{b: calc(1px + 2px)}}",
            ),
            ("a{background:url( x y )}", "a{background:url( x y )}"),
            ("a :hover, a:hover { --x: { a } }", "a :hover, a:hover{--x:{a}}"),
            ("a { b: c", "a{b: c"),
        ];
        for (text, expected) in table {
            assert_eq!(short(text), expected, "{text}");
        }
    }
}

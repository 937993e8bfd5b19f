//! The members of a selector list, by their places in its text.

use cssparser::{Parser, Token};

use crate::source::Span;

/// The places of the complex selectors of a list, without blanks around them.
pub fn members(list: &str) -> Vec<Span> {
    let mut input = Parser::new(list);
    let mut cuts = vec![0];
    loop {
        match input.next_including_whitespace_and_comments() {
            Ok(Token::Comma) => cuts.push(input.position().byte_index()),
            Ok(_) => {}
            Err(_) => break,
        }
    }
    cuts.push(list.len() + 1);
    cuts.windows(2)
        .map(|cut| {
            let raw = &list[cut[0]..cut[1] - 1];
            let start = cut[0] + raw.len() - raw.trim_ascii_start().len();
            Span::new(start, start + raw.trim_ascii().len())
        })
        .collect()
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn commas_in_brackets_and_strings_do_not_cut() {
        let list = "a , b:is(c, d),[e=',']";
        let found: Vec<_> = members(list).into_iter().map(|span| &list[span.range()]).collect();
        assert_eq!(found, ["a", "b:is(c, d)", "[e=',']"]);
        assert_eq!(members("p").len(), 1);
    }
}

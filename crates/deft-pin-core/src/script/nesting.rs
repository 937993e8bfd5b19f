//! How deeply a script is nested, from above and without parsing it: parsers go down a level for each
//! bracket and each link of a chain (`a=>a=>…`, `else if`, `a+a+…`), and are not sent where their stack
//! ends.
//!
//! Every token counts as a level until its statement, or its part of a list, is known to be over.

/// A bracket that is open, and what stands in it since something came to its end.
#[derive(Clone, Copy, Default)]
struct Level {
    /// The bracket.
    bracket: u8,
    /// Tokens of the expression that is going on.
    tokens: usize,
    /// Statements that hold the one that is going on: `if (a) for (;;) …`.
    statements: usize,
}

/// The kinds of tokens, as far as they tell whether something is over.
#[derive(Clone, Copy, PartialEq, Eq)]
enum Token {
    /// A name, a literal, the end of brackets: an operator or an end follows.
    Operand,
    /// A `}`: an operand, or the end of a statement.
    BlockEnd,
    /// A `;`.
    Semicolon,
    /// Everything else.
    Operator,
}

/// Words behind which an operand follows.
fn is_prefix(word: &[u8]) -> bool {
    matches!(
        word,
        b"await"
            | b"yield"
            | b"typeof"
            | b"void"
            | b"delete"
            | b"new"
            | b"in"
            | b"instanceof"
            | b"of"
            | b"case"
            | b"return"
            | b"throw"
            | b"else"
            | b"do"
            | b"extends"
            | b"class"
            | b"function"
            | b"async"
            | b"let"
            | b"static"
            | b"get"
            | b"set"
    )
}

/// Words that go on with what stands before them.
fn goes_on(word: &[u8]) -> bool {
    matches!(
        word,
        b"else"
            | b"catch"
            | b"finally"
            | b"while"
            | b"in"
            | b"instanceof"
            | b"of"
            | b"as"
            | b"from"
            | b"extends"
    )
}

/// Words that begin a statement which holds another.
fn is_holder(word: &[u8]) -> bool {
    matches!(word, b"if" | b"for" | b"while" | b"do" | b"else" | b"with" | b"switch" | b"try")
}

/// Which bytes words are made of: those of names, numbers and words of the language.
const IN_WORDS: [bool; 256] = {
    let mut table = [false; 256];
    let mut byte = 0;
    while byte < 256 {
        let own = byte as u8;
        table[byte] = own.is_ascii_alphanumeric() || matches!(own, b'_' | b'$' | b'\\' | b'#' | 0x80..);
        byte += 1;
    }
    table
};

fn is_in_word(byte: u8) -> bool {
    IN_WORDS[byte as usize]
}

struct Scan<'t> {
    bytes: &'t [u8],
    at: usize,
    /// The innermost bracket, and those around it.
    level: Level,
    around: Vec<Level>,
    /// Of all levels together.
    total: usize,
    last: Token,
    /// Whether a line ended since the last token.
    is_new_line: bool,
}

/// Where a script is nested too deeply.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) struct TooDeep {
    /// The byte of the text.
    pub(super) at: usize,
    /// How many brackets are open there.
    pub(super) brackets: usize,
}

/// How deeply a script is nested at most.
///
/// # Errors
/// The first token that is nested more deeply than `most`.
pub(super) fn nesting(text: &str, most: usize) -> Result<usize, TooDeep> {
    let mut scan = Scan {
        bytes: text.as_bytes(),
        at: 0,
        level: Level::default(),
        around: Vec::with_capacity(16),
        total: 0,
        last: Token::Semicolon,
        is_new_line: false,
    };
    let mut deepest = 0;
    while let Some(start) = scan.token() {
        if scan.total > most {
            return Err(TooDeep { at: start, brackets: scan.around.len() });
        }
        deepest = deepest.max(scan.total);
    }
    Ok(deepest)
}

/// So many levels a script has at most, by its letters alone: no token is more than two, and a word that begins a
/// statement is two as well.
pub(super) fn most_levels(text: &str) -> usize {
    let mut tokens = 0;
    let mut was_in_word = false;
    for byte in text.bytes() {
        let is_word = is_in_word(byte);
        tokens += usize::from(if is_word { !was_in_word } else { !byte.is_ascii_whitespace() });
        was_in_word = is_word;
    }
    2 * tokens
}

impl Scan<'_> {
    fn peek(&self, ahead: usize) -> u8 {
        self.bytes.get(self.at + ahead).copied().unwrap_or(0)
    }

    /// Reads a token and says where it begins.
    fn token(&mut self) -> Option<usize> {
        loop {
            match self.peek(0) {
                b'\n' | b'\r' => {
                    self.is_new_line = true;
                    self.at += 1;
                }
                b'/' if self.peek(1) == b'/' => self.skip(|byte| !matches!(byte, b'\n' | b'\r')),
                b'/' if self.peek(1) == b'*' => {
                    self.at += 2;
                    while self.at < self.bytes.len() && (self.peek(0), self.peek(1)) != (b'*', b'/') {
                        self.at += 1;
                    }
                    self.at += 2;
                }
                byte if byte.is_ascii_whitespace() || byte == 0x0b => self.at += 1,
                _ if self.at >= self.bytes.len() => return None,
                _ => break,
            }
        }
        let start = self.at;
        let byte = self.peek(0);
        match byte {
            _ if is_in_word(byte) => {
                self.skip(is_in_word);
                let word = &self.bytes[start..self.at];
                self.before_operand(word);
                if is_holder(word) {
                    self.level.statements += 1;
                    self.total += 1;
                }
                self.count(if is_prefix(word) { Token::Operator } else { Token::Operand });
            }
            b'\'' | b'"' => {
                self.before_operand(&[]);
                self.literal(|inner| inner == byte);
            }
            b'/' if matches!(self.last, Token::Operator | Token::Semicolon | Token::BlockEnd) => {
                let mut in_class = false;
                self.literal(|byte| {
                    in_class = (in_class || byte == b'[') && byte != b']';
                    byte == b'/' && !in_class
                });
            }
            b'`' => {
                self.at += 1;
                self.open(b'`');
                self.template();
            }
            b'(' | b'[' | b'{' => {
                if byte == b'{' {
                    self.before_operand(&[]);
                }
                self.at += 1;
                self.count(Token::Operator);
                self.open(byte);
            }
            b')' | b']' | b'}' => {
                self.at += 1;
                self.close();
                self.last = if byte == b'}' { Token::BlockEnd } else { Token::Operand };
                if byte == b'}' && self.level.bracket == b'`' {
                    self.template();
                }
            }
            b',' => {
                self.at += 1;
                self.end_expression();
                self.last = Token::Operator;
            }
            b';' => {
                self.at += 1;
                self.end_expression();
                self.last = Token::Semicolon;
            }
            _ => {
                self.at += 1;
                self.count(Token::Operator);
            }
        }
        self.is_new_line = false;
        Some(start)
    }

    /// Steps over bytes of a kind.
    fn skip(&mut self, is_one: impl Fn(u8) -> bool) {
        let rest = &self.bytes[self.at..];
        self.at += rest.iter().position(|byte| !is_one(*byte)).unwrap_or(rest.len());
    }

    /// Steps over a string or a regular expression: to its end, or to that of the line.
    fn literal(&mut self, mut ends: impl FnMut(u8) -> bool) {
        self.at += 1;
        while self.at < self.bytes.len() && !matches!(self.peek(0), b'\n' | b'\r') {
            let byte = self.peek(0);
            self.at += if byte == b'\\' { 2 } else { 1 };
            if ends(byte) {
                break;
            }
        }
        self.count(Token::Operand);
    }

    /// The text of a template, to its end or to an expression in it.
    fn template(&mut self) {
        while self.at < self.bytes.len() {
            match self.peek(0) {
                b'\\' => self.at += 2,
                b'`' => {
                    self.at += 1;
                    self.close();
                    self.count(Token::Operand);
                    return;
                }
                b'$' if self.peek(1) == b'{' => {
                    self.at += 2;
                    self.open(b'{');
                    self.last = Token::Operator;
                    return;
                }
                _ => self.at += 1,
            }
        }
    }

    fn open(&mut self, bracket: u8) {
        let own = Level { bracket, tokens: 1, statements: 0 };
        self.around.push(std::mem::replace(&mut self.level, own));
        self.total += 1;
    }

    fn close(&mut self) {
        // One that closes nothing is an error, and nothing gets less deep by it.
        if let Some(around) = self.around.pop() {
            let own = std::mem::replace(&mut self.level, around);
            self.total -= own.tokens + own.statements;
        }
    }

    fn count(&mut self, token: Token) {
        self.level.tokens += 1;
        self.total += 1;
        self.last = token;
    }

    fn end_expression(&mut self) {
        let tokens = std::mem::take(&mut self.level.tokens);
        self.total -= tokens;
    }

    fn end_statement(&mut self) {
        self.end_expression();
        let statements = std::mem::take(&mut self.level.statements);
        self.total -= statements;
    }

    /// An operand behind an operand, or behind the end of a block or of a statement, begins another
    /// statement, unless it is a word that goes on with the one before.
    fn before_operand(&mut self, word: &[u8]) {
        if goes_on(word) {
            return;
        }
        match self.last {
            Token::Semicolon | Token::BlockEnd => self.end_statement(),
            // What may be the head of an `if` stands before it, so that statements go on.
            Token::Operand if self.is_new_line => self.end_expression(),
            Token::Operand | Token::Operator => {}
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn is_deep(text: &str) -> bool {
        assert!(nesting(text, usize::MAX).unwrap() <= most_levels(text), "{text}");
        nesting(text, 1000).is_err()
    }

    #[test]
    fn chains_and_brackets_are_deep_however_they_are_made() {
        let deep = [
            "(", "[", "{", "!", "a?", "a?b:", "a=>", "a=", "-", "`${", "new ", "x.y(", "if(a)",
            "if(a){}else ", "if(a);else ", "class extends ", "while(a)", "for(;;)", "a:", "a+", "a.b", "a()",
            "a``", "typeof ", "await ", "yield ", "function f(){", "a=>{", "(class extends ", "do ", "(')',",
            "('(',/[/)]/,", "{a:", "try{", "with(a)", "/*(*/(", "if(a)\n", "else\n", "a??", "[`)]}`,",
            "if(a){}\nelse ",
        ];
        for unit in deep {
            assert!(is_deep(&unit.repeat(1100)), "{unit}");
        }
    }

    #[test]
    fn what_comes_one_after_the_other_is_not_deep() {
        let flat = [
            "a;", "a()\n", "if(a)b;", "if(a){b}", "if(a){b}else{c}", "f(1),", "function f(){return 1}",
            "var a=1\n", "class A{}", "for(a of b){c}", "{}", "`a${b}`;", "'(';", "\"[\\\"(\";",
            "/[/(]\\/(/;", "// ((\n", "/* (( */", "a=()=>{b};", "switch(a){case 1:b;break;}",
            "do{a}while(b);", "try{a}catch{b}", "x={a:1};", "if(a)b\n;", "label:a;", "a\n", "[1,2],",
            "a ? b : c;", "return a/b;", "(a)/b/c;",
        ];
        for unit in flat {
            assert!(!is_deep(&unit.repeat(2000)), "{unit}");
        }
        assert!(!is_deep(&format!("x = [{}]", "{a: 1, b: [2, 3]}, ".repeat(2000))));
        assert!(!is_deep(&format!("x = {{{}}}", "a: 1, b() { return 1 }, ".repeat(2000))));
        assert!(!is_deep(&"(".repeat(400)) && is_deep(&"(".repeat(1001)));
    }
}

//! Sites in memory, written as one text with a line `--- path` before each file, and what is found
//! on them.

#![allow(dead_code, reason = "each test file uses a part of it")]

use deft_pin_core::board::Board;
use deft_pin_core::check::{Checker, Explanations, Finding, PageFacts, SiteFacts, Told};
use deft_pin_core::code::PageId;
use deft_pin_core::emit::{Embedding, Emitter, OutputFiles};
use deft_pin_core::page::SiteContext;
use deft_pin_core::plan::Plan;
use deft_pin_core::site::Site;
use deft_pin_core::source::{FilePath, Files as _, MemoryFiles};

/// The files of a site and its board.
pub struct Made {
    pub files: MemoryFiles,
    board: Board,
}

impl Made {
    /// Makes a site; the board is `deft-pin.toml` among its files, below a `[site]` of its own.
    pub fn of(text: &str) -> Self {
        let (mut files, mut board) = (MemoryFiles::default(), "[site]\nroot = 'site'\n".to_owned());
        for file in text.split("--- ").skip(1) {
            let (path, text) = file.split_once('\n').unwrap();
            match path.trim() {
                "deft-pin.toml" => board += text,
                path => files.insert(path, text.trim_end()),
            }
        }
        let board = Board::parse(&board).unwrap_or_else(|mistakes| panic!("{mistakes:?}"));
        Made { files, board }
    }

    /// Puts a file of any bytes there.
    pub fn with(mut self, path: &str, bytes: &[u8]) -> Self {
        self.files.insert(path, bytes);
        self
    }

    /// Does something with everything that is needed to check it.
    pub fn checked<T>(&self, act: impl FnOnce(&Bench<'_>) -> T) -> T {
        let site = Site::list(&self.files, &self.board.root).unwrap();
        let plan = Plan::new(&self.board, &self.files);
        let output = OutputFiles::new(&plan, "_pins");
        let context = SiteContext::new(&plan, &site, &self.files);
        let emitter = Emitter { plan: &plan, files: &output, embedding: Embedding::default() };
        act(&Bench { files: &self.files, emitter, context: &context, checker: Checker::new(&context) })
    }

    /// Every finding.
    pub fn findings(&self) -> Vec<Finding> {
        self.checked(|bench| {
            let pages: Vec<PageId> = bench.context.site().pages.ids().collect();
            let mut facts = SiteFacts::default();
            pages.into_iter().filter_map(|page| bench.facts(page)).for_each(|of_page| facts.add(of_page));
            let board_file = FilePath::parse("deft-pin.toml").unwrap();
            let questions = bench.checker.questions(&board_file, &facts);
            let mut explanations = Explanations::default();
            for (page, asked) in questions.pages() {
                let bytes = bench.bytes(page);
                let answers = bench.checker.answers(&bench.context.page(page, &bytes), asked);
                explanations.add(page, answers);
            }
            bench.checker.findings(&board_file, &facts, Told { explanations: &explanations, paste_up: None })
        })
    }

    /// The findings, each as `code file:line pages`.
    pub fn drawn(&self) -> Vec<String> {
        let draw = |finding: &Finding| {
            let pages: Vec<&str> = finding.pages.iter().map(|page| page.as_str()).collect();
            let place = format!("{}:{}", finding.place.file, finding.place.start.line);
            format!("{} {place} {}", finding.code, pages.join(" ")).trim_end().to_owned()
        };
        self.findings().iter().map(draw).collect()
    }
}

/// What is needed to check a site.
pub struct Bench<'b> {
    files: &'b MemoryFiles,
    emitter: Emitter<'b>,
    pub context: &'b SiteContext<'b>,
    checker: Checker<'b>,
}

impl Bench<'_> {
    pub fn bytes(&self, page: PageId) -> Vec<u8> {
        self.files.read(&self.context.site().path_of(&self.context.site().pages[page].file)).unwrap()
    }

    /// What a page says; none where it need not be looked at.
    pub fn facts(&self, page: PageId) -> Option<PageFacts> {
        self.checker.is_for(page).then(|| {
            let bytes = self.bytes(page);
            self.checker.facts(&self.emitter.page(&self.context.page(page, &bytes)))
        })
    }
}

//! JavaScript: what of a script a browser cannot read, what it needs and gives, and scripts made
//! safe to stand in a page.

mod added;
mod addresses;
mod asked_names;
mod bringing;
mod calls;
mod dates;
mod evaluation;
mod facts;
mod file;
mod frame;
mod globals;
mod guards;
mod inline;
mod lookups;
mod mends;
mod modules;
mod nesting;
mod outside;
mod personal;
mod program;
mod reader;
mod record;
mod regular;
mod short;
mod style_names;
mod syntax;
mod text_places;
mod timeline;
mod truths;
mod uses;
mod values;

pub use added::AddedName;
pub use addresses::{AddressForm, ScriptAddress, addresses};
pub use asked_names::{asked_names, callbacks_of, names_asked_by};
pub use evaluation::{
    AskedFile, Certainty, Code, GlobalState, HandedOver, Root, RunFault, RunFaultKind, World, Writing,
};
pub use facts::facts;
pub use file::ScriptFile;
pub(crate) use frame::quoted;
pub use frame::{AskedName, Frame, FrameValue};
pub use globals::{is_browser_global, is_member};
pub use inline::inline_safe;
pub use mends::{Mend, mend};
pub use modules::{ModuleExports, ModuleImport};
pub use outside::Outside;
pub use personal::Given;
pub use program::{ClassId, FunctionId, Sketch, SketchedGlobal, SketchedMembers, Variable};
pub use record::{Declared, GlobalUse, LookUp, PageEvent, ScriptFacts, When};
pub use short::short;
pub use syntax::{ScriptFlaw, ScriptKind, syntax_flaws};
pub use text_places::{TextPlace, text_places};
pub use timeline::{Execution, Timeline, Timing};

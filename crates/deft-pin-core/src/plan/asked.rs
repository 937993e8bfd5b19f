//! What pages ask pins' scripts for.

use std::collections::{BTreeMap, BTreeSet};

use crate::code::PinId;
use crate::script::AskedName;

/// Names of pins' scripts that pages ask for.
pub type Asked = BTreeMap<PinId, BTreeSet<AskedName>>;

//! The names of the files that go along: each carries a hash of what is in the file, and of what that loads in turn, so
//! that it changes whenever a file behind it does.

use std::collections::BTreeMap;

use sha2::{Digest, Sha256};

use super::components::components;
use crate::plan::Asset;
use crate::source::FilePath;

/// The names of all files that code loads, in the folder of assets. Each file is read once, however much loads it.
pub(super) fn asset_names(assets: &BTreeMap<FilePath, Asset>) -> BTreeMap<FilePath, String> {
    let paths: Vec<&FilePath> = assets.keys().collect();
    let number_of: BTreeMap<&FilePath, usize> =
        paths.iter().enumerate().map(|(at, path)| (*path, at)).collect();
    let loads: Vec<Vec<usize>> = assets
        .values()
        .map(|file| file.urls.iter().filter_map(|url| number_of.get(&url.path).copied()).collect())
        .collect();
    let mut names = BTreeMap::new();
    let mut hashes: Vec<Vec<u8>> = vec![Vec::new(); paths.len()];
    // Files that load each other in a circle change together.
    for circle in components(&loads) {
        let mut hash = Sha256::new();
        for at in &circle {
            hash.update(paths[*at].as_str());
            hash.update(&assets[paths[*at]].bytes);
        }
        let mut behind: Vec<&[u8]> = circle
            .iter()
            .flat_map(|at| &loads[*at])
            .map(|at| &*hashes[*at])
            .filter(|hash| !hash.is_empty())
            .collect();
        behind.sort_unstable();
        behind.dedup();
        behind.into_iter().for_each(|own| hash.update(own));
        let common = hash.finalize().to_vec();
        for at in &circle {
            let path = paths[*at];
            hashes[*at] = match circle.len() {
                1 => common.clone(),
                _ => Sha256::new().chain_update(path.as_str()).chain_update(&common).finalize().to_vec(),
            };
            let extension = path.extension();
            let dot = if extension.is_empty() { "" } else { "." };
            names.insert(path.clone(), format!("{}.{}{dot}{extension}", stem_of(path), hex(&hashes[*at])));
        }
    }
    names
}

/// The name of a file without what tells its kind.
pub(super) fn stem_of(path: &FilePath) -> &str {
    path.name().rsplit_once('.').map_or(path.name(), |(stem, _)| stem)
}

/// The hash of a text, as it stands in a name.
pub(super) fn short_hash(bytes: &[u8]) -> String {
    hex(&Sha256::digest(bytes))
}

/// The first twelve digits of a hash.
fn hex(digest: &[u8]) -> String {
    digest.iter().take(6).map(|byte| format!("{byte:02x}")).collect()
}

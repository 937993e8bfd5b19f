//! Files that are written beside a person's own: whole or not at all, and never over something else.

use std::fs;
use std::io::{self, ErrorKind, Write as _};
use std::path::{Path, PathBuf};

use anyhow::{Context, Result, bail};
use tempfile::NamedTempFile;

/// Writes a new file. Where something is there already, that stays as it is.
///
/// # Errors
/// Something is there, or the file cannot be written: then nothing of it is left.
pub fn write_new(path: &Path, bytes: &[u8]) -> Result<()> {
    if fs::symlink_metadata(path).is_ok() {
        bail!("there is a file `{}` already, and it stays as it is", path.display());
    }
    let put = |file: NamedTempFile| match file.persist_noclobber(path) {
        Ok(_) => Ok(()),
        // Some file systems can neither link nor move without replacing.
        Err(error)
            if error.error.kind() != ErrorKind::AlreadyExists && fs::symlink_metadata(path).is_err() =>
        {
            error.file.persist(path).map(drop).map_err(|error| error.error)
        }
        Err(error) => Err(error.error),
    };
    written(path, bytes).and_then(put).with_context(|| format!("`{}` cannot be written", path.display()))
}

/// Writes a file, in the place of an earlier one of the same kind if there is one.
///
/// # Errors
/// Something else is there, which stays; or the file cannot be written: then the earlier one stays.
pub fn write_again(path: &Path, bytes: &[u8], is_earlier: impl Fn(&[u8]) -> bool) -> Result<()> {
    let Ok(about) = fs::symlink_metadata(path) else { return write_new(path, bytes) };
    let is_ours = || fs::read(path).is_ok_and(|bytes| is_earlier(&bytes));
    if !about.is_file() || !is_ours() {
        bail!(
            "there is something else at `{}` already, and it stays as it is; name another file",
            path.display()
        );
    }
    let put = |file: NamedTempFile| file.persist(path).map(drop).map_err(|error| error.error);
    written(path, bytes).and_then(put).with_context(|| format!("`{}` cannot be written", path.display()))
}

/// The bytes in a file beside the place that they are for.
fn written(path: &Path, bytes: &[u8]) -> io::Result<NamedTempFile> {
    let folder = or_here(path.parent().unwrap_or(Path::new("")));
    let mut builder = tempfile::Builder::new();
    builder.prefix(".deft-pin-");
    #[cfg(unix)]
    {
        use std::os::unix::fs::PermissionsExt as _;
        builder.permissions(fs::Permissions::from_mode(0o666));
    }
    let mut file = builder.tempfile_in(folder)?;
    file.write_all(bytes)?;
    file.flush()?;
    Ok(file)
}

/// Does something with a file; where its folder is missing, makes that and does it again.
///
/// # Errors
/// It cannot be done.
pub fn in_folder(target: &Path, act: impl Fn(&Path) -> io::Result<()>) -> io::Result<()> {
    match act(target) {
        Err(error) if error.kind() == ErrorKind::NotFound => {
            if let Some(folder) = target.parent() {
                fs::create_dir_all(folder)?;
            }
            act(target)
        }
        done => done,
    }
}

/// A path as it is shown: what is no text, and what a terminal obeys, by its escapes.
pub fn shown(path: &Path) -> String {
    let mut text = String::new();
    for chunk in path.as_os_str().as_encoded_bytes().utf8_chunks() {
        for character in chunk.valid().chars() {
            match character.is_control() {
                true => text.extend(character.escape_default()),
                false => text.push(character),
            }
        }
        chunk.invalid().iter().for_each(|byte| text.push_str(&format!("\\x{byte:02x}")));
    }
    text
}

/// A folder, by a path that is empty for the one that this is run in.
pub fn or_here(folder: &Path) -> PathBuf {
    if folder.as_os_str().is_empty() { PathBuf::from(".") } else { folder.to_owned() }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_file_is_written_whole_and_over_nothing_else() {
        let folder = tempfile::tempdir().unwrap();
        let path = folder.path().join("a.css");
        write_new(&path, b"one").unwrap();
        assert!(write_new(&path, b"two").is_err());
        assert!(write_again(&path, b"two", |bytes| bytes.starts_with(b"x")).is_err());
        assert_eq!(fs::read(&path).unwrap(), b"one");
        write_again(&path, b"two", |bytes| bytes.starts_with(b"o")).unwrap();
        assert_eq!(fs::read(&path).unwrap(), b"two");
        assert!(write_new(&folder.path().join("none/a.css"), b"x").is_err());
        assert!(write_again(folder.path(), b"x", |_| true).is_err());
        assert_eq!(fs::read_dir(folder.path()).unwrap().count(), 1);
    }

    #[cfg(unix)]
    #[test]
    fn paths_are_shown_without_what_a_terminal_obeys() {
        use std::os::unix::ffi::OsStrExt as _;
        for (name, expected) in [
            (&b"fares.html"[..], "fares.html"),
            ("Größe ẞ.html".as_bytes(), "Größe ẞ.html"),
            (b"a\xffb\x1b[2J", "a\\xffb\\u{1b}[2J"),
            ("a\u{9b}b\n".as_bytes(), "a\\u{9b}b\\n"),
        ] {
            assert_eq!(shown(Path::new(std::ffi::OsStr::from_bytes(name))), expected);
        }
    }
}

//! How fast a server is asked: two at once, and each with a pause before the next.

use std::sync::Mutex;
use std::sync::atomic::{AtomicUsize, Ordering};

/// How many ask at once.
const AT_ONCE: usize = 2;

/// Does something for each of some things, two at once; what comes of it comes in their order. What is being done goes
/// on in the order of the things.
pub fn in_turn<T: Sync, R: Send>(things: &[T], work: impl Fn(&T) -> R + Sync) -> Vec<R> {
    let next = AtomicUsize::new(0);
    let done: Mutex<Vec<Option<R>>> = Mutex::new(things.iter().map(|_| None).collect());
    std::thread::scope(|scope| {
        for _ in 0..AT_ONCE.min(things.len()) {
            scope.spawn(|| {
                while let Some((number, thing)) = {
                    let number = next.fetch_add(1, Ordering::Relaxed);
                    things.get(number).map(|thing| (number, thing))
                } {
                    let made = work(thing);
                    if let Ok(mut done) = done.lock() {
                        done[number] = Some(made);
                    }
                }
            });
        }
    });
    done.into_inner().unwrap_or_default().into_iter().flatten().collect()
}

#[cfg(test)]
mod tests {
    use super::in_turn;

    #[test]
    fn what_comes_comes_in_order() {
        let numbers: Vec<u32> = (0..100).collect();
        assert_eq!(in_turn(&numbers, |own| own * 2), (0..100).map(|own| own * 2).collect::<Vec<_>>());
        assert_eq!(in_turn(&[] as &[u32], |own| *own), Vec::<u32>::new());
    }
}

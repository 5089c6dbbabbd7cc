//! Results that were read lately.

use std::sync::{Arc, Mutex, MutexGuard, PoisonError};

/// How many results of a kind are kept parsed.
const RECENT: usize = 3;

/// Results that were read lately, so that every overlay does not parse them again.
pub struct Recent<K, T> {
    kept: Mutex<Vec<(K, Arc<T>)>>,
    /// How much one takes of the budget.
    weight: fn(&T) -> usize,
    budget: usize,
}

impl<K: PartialEq, T> Recent<K, T> {
    pub fn within(budget: usize, weight: fn(&T) -> usize) -> Self {
        Self {
            kept: Mutex::new(Vec::new()),
            weight,
            budget,
        }
    }

    pub fn few() -> Self {
        Self::within(RECENT, |_| 1)
    }

    /// A panic elsewhere while this was held leaves a list that is at worst incomplete.
    fn kept(&self) -> MutexGuard<'_, Vec<(K, Arc<T>)>> {
        self.kept.lock().unwrap_or_else(PoisonError::into_inner)
    }

    pub fn get(&self, id: K) -> Option<Arc<T>> {
        let mut kept = self.kept();
        let at = kept.iter().position(|(k, _)| *k == id)?;
        // The latest stands last.
        kept[at..].rotate_left(1);
        kept.last().map(|(_, v)| v.clone())
    }

    pub fn put(&self, id: K, value: Arc<T>) {
        let mut kept = self.kept();
        kept.retain(|(k, _)| *k != id);
        kept.push((id, value));
        let mut total: usize = kept.iter().map(|(_, v)| (self.weight)(v)).sum();
        while kept.len() > 1 && total > self.budget {
            let (_, least) = kept.remove(0);
            total -= (self.weight)(&least);
        }
    }

    pub fn forget(&self, which: impl Fn(&K) -> bool) {
        self.kept().retain(|(k, _)| !which(k));
    }
}

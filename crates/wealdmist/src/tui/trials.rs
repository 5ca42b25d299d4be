//! Trials on running programs: one thread that always shows the latest draft asked for, and that
//! takes everything back however the interface ends.

use std::sync::mpsc::{Sender, channel};
use std::thread::JoinHandle;

use wealdmist_core::setup::SetupDoc;
use wealdmist_host::{Survey, take_back, try_on};

use super::app::Message;

/// The trial under way, if there is one.
#[derive(Default)]
pub struct Trials {
    running: Option<Running>,
}

struct Running {
    survey: Survey,
    jobs: Sender<SetupDoc>,
    thread: JoinHandle<()>,
}

impl Trials {
    /// Lets the running programs wear a draft; one still waiting is passed over for it.
    pub fn wear(&mut self, survey: &Survey, doc: SetupDoc, answers: &Sender<Message>) {
        let running = self.running.get_or_insert_with(|| {
            let (jobs, incoming) = channel::<SetupDoc>();
            let (survey, answers) = (survey.clone(), answers.clone());
            let kept = survey.clone();
            let thread = std::thread::spawn(move || {
                while let Ok(mut doc) = incoming.recv() {
                    while let Ok(later) = incoming.try_recv() {
                        doc = later;
                    }
                    let _ = answers.send(Message::Tried(try_on(&survey, &doc)));
                }
            });
            Running {
                survey: kept,
                jobs,
                thread,
            }
        });
        // The thread only ends when this sender does.
        let _ = running.jobs.send(doc);
    }

    /// Takes the trial back and waits until it is.
    pub fn end(&mut self) {
        if let Some(running) = self.running.take() {
            drop(running.jobs);
            let _ = running.thread.join();
            let _ = take_back(&running.survey);
        }
    }
}

impl Drop for Trials {
    fn drop(&mut self) {
        self.end();
    }
}

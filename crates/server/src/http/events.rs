//! Events over a WebSocket: progress, and what other windows did.

use actix_web::rt::time::sleep;
use actix_web::web::{Payload, Query};
use actix_web::{Error, HttpRequest, HttpResponse};
use actix_ws::Message;
use futures_util::StreamExt;
use serde::Deserialize;
use tokio::sync::broadcast::Receiver;
use tokio::sync::broadcast::error::RecvError;

use super::Shared;
use crate::app::GONE_AFTER;
use crate::views::Event;

/// Who listens.
#[derive(Deserialize)]
pub struct Listener {
    /// The page, as it names itself in what it asks for; none for others than pages.
    page: Option<String>,
}

pub async fn events(
    app: Shared,
    listener: Query<Listener>,
    request: HttpRequest,
    body: Payload,
) -> Result<HttpResponse, Error> {
    let (response, mut session, mut incoming) = actix_ws::handle(&request, body)?;
    let mut events = app.events.subscribe();
    let page = listener.into_inner().page;
    if let Some(page) = &page {
        app.page_opened(page);
    }
    actix_web::rt::spawn(async move {
        loop {
            tokio::select! {
                text = next(&mut events) => match text {
                    Some(text) => if session.text(text).await.is_err() {
                        break;
                    },
                    None => break,
                },
                message = incoming.next() => match message {
                    Some(Ok(Message::Ping(bytes))) => _ = session.pong(&bytes).await,
                    Some(Ok(Message::Close(_)) | Err(_)) | None => break,
                    Some(Ok(_)) => {}
                },
            }
        }
        let _ = session.close(None).await;
        if let Some(page) = page {
            app.page_broke_off(&page);
            sleep(GONE_AFTER).await;
            app.give_up_if_gone(&page);
        }
    });
    Ok(response)
}

/// What a page is told next; none when there is nothing to come. A page that was too slow is told that it missed something, and asks for all it shows anew.
async fn next(events: &mut Receiver<Event>) -> Option<String> {
    let event = match events.recv().await {
        Ok(event) => event,
        Err(RecvError::Lagged(_)) => Event::Missed,
        Err(RecvError::Closed) => return None,
    };
    Some(serde_json::to_string(&event).unwrap_or_default())
}

#[cfg(test)]
mod tests {
    use super::*;

    #[tokio::test]
    async fn a_page_that_is_too_slow_is_told_that_it_missed_something() {
        let (send, mut events) = tokio::sync::broadcast::channel(2);
        for stamp in 1..=5 {
            send.send(Event::Changed { project: 7, stamp }).unwrap();
        }
        assert_eq!(next(&mut events).await.unwrap(), r#"{"event":"missed"}"#);
        // And goes on with what is still held.
        assert_eq!(next(&mut events).await.unwrap(), r#"{"event":"changed","project":7,"stamp":4}"#);
        assert!(next(&mut events).await.unwrap().contains(r#""stamp":5"#));
        drop(send);
        assert_eq!(next(&mut events).await, None);
    }
}

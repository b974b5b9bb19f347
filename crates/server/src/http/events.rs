//! Events over a WebSocket: progress, and what other windows did.

use actix_web::web::Payload;
use actix_web::{Error, HttpRequest, HttpResponse};
use actix_ws::Message;
use futures_util::StreamExt;
use tokio::sync::broadcast::error::RecvError;

use super::Shared;
use crate::views::Event;

pub async fn events(app: Shared, request: HttpRequest, body: Payload) -> Result<HttpResponse, Error> {
    let (response, mut session, mut incoming) = actix_ws::handle(&request, body)?;
    let mut events = app.events.subscribe();
    actix_web::rt::spawn(async move {
        loop {
            tokio::select! {
                event = events.recv() => match event {
                    Ok(event) => {
                        let text = serde_json::to_string(&event).unwrap_or_default();
                        if session.text(text).await.is_err() {
                            return;
                        }
                    }
                    // A slow page asks for all it shows anew.
                    Err(RecvError::Lagged(_)) => {
                        let text = serde_json::to_string(&Event::Missed).unwrap_or_default();
                        if session.text(text).await.is_err() {
                            return;
                        }
                    }
                    Err(RecvError::Closed) => break,
                },
                message = incoming.next() => match message {
                    Some(Ok(Message::Ping(bytes))) => _ = session.pong(&bytes).await,
                    Some(Ok(Message::Close(_)) | Err(_)) | None => break,
                    Some(Ok(_)) => {}
                },
            }
        }
        let _ = session.close(None).await;
    });
    Ok(response)
}

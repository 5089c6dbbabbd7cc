//! How the server starts: the project is opened, work begins, an address is listened on.

use crate::app::{App, Config};
use crate::error::{Absent, ApiError};
use crate::screens::page::answer;
use crate::screens::routes::register;
use crate::screens::start::page::page as list_page;
use crate::screens::{self, assets, page};
use crate::{guard, intake, work};
use actix_web::dev::Server;
use actix_web::middleware::{Compress, from_fn};
use actix_web::{App as Actix, HttpServer, ResponseError, web};
use std::sync::Arc;

/// Opens the project, begins background work and listens. Returns the server (to be awaited)
/// and the address it listens on.
pub async fn start(
    config: Config,
) -> Result<(Server, String, Arc<App>), Box<dyn std::error::Error>> {
    let (host, port) = (config.host.clone(), config.port);
    let app = App::open(config).await?;
    intake::open_demo(&app).await?;
    let again = app.store.requeue_interrupted().await?;
    if again > 0 {
        tracing::info!("{again} job(s) begin again after the application had stopped");
    }
    work::begin(&app);
    let shared = web::Data::from(app.clone());
    let unreadable = |what: &'static str| ApiError::Unreadable { what };
    let server = HttpServer::new(move || {
        Actix::new()
            .app_data(shared.clone())
            .app_data(
                web::JsonConfig::default()
                    .limit(4 << 20)
                    .error_handler(move |_, _| unreadable("the body").into()),
            )
            .app_data(
                web::PathConfig::default().error_handler(move |_, _| unreadable("the path").into()),
            )
            .app_data(
                web::QueryConfig::default()
                    .error_handler(move |_, _| unreadable("the query").into()),
            )
            .wrap(from_fn(answer::edited))
            .wrap(Compress::default())
            .wrap(from_fn(guard::check))
            .configure(|config| register(config, screens::routes()))
            .route("/", web::get().to(list_page))
            .route("/shots/{shot}", web::get().to(page::template::page))
            .route("/assets/{file:.*}", web::get().to(assets::asset))
            .default_service(web::to(|| async {
                ApiError::from(Absent::Address).error_response()
            }))
    })
    .workers(2)
    .shutdown_timeout(1)
    .bind((host.as_str(), port))?;
    let address = server
        .addrs()
        .first()
        .map(|a| format!("http://{a}"))
        .unwrap_or_default();
    Ok((server.run(), address, app))
}

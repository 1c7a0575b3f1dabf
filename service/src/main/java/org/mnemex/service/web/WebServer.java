package org.mnemex.service.web;

import jakarta.servlet.ServletException;
import jakarta.servlet.http.HttpServletRequest;
import java.io.IOException;
import java.nio.charset.StandardCharsets;
import org.apache.catalina.connector.Request;
import org.apache.catalina.connector.Response;
import org.apache.catalina.core.StandardHost;
import org.apache.catalina.valves.ErrorReportValve;
import org.apache.catalina.valves.ValveBase;
import org.apache.coyote.ActionCode;
import org.apache.tomcat.util.buf.EncodedSolidusHandling;
import org.jspecify.annotations.Nullable;
import org.springframework.boot.tomcat.servlet.TomcatServletWebServerFactory;
import org.springframework.boot.web.server.WebServerFactoryCustomizer;
import org.springframework.http.HttpStatus;
import org.springframework.http.MediaType;
import org.springframework.stereotype.Component;

/**
 * The web server: keys of records may contain encoded slashes, and requests refused before any
 * handler are problem documents, too.
 */
@Component
class WebServer implements WebServerFactoryCustomizer<TomcatServletWebServerFactory> {
  private static final String CLOSE = WebServer.class.getName() + ".close";

  @Override
  public void customize(TomcatServletWebServerFactory factory) {
    factory.addConnectorCustomizers(
        connector ->
            connector.setEncodedSolidusHandling(EncodedSolidusHandling.PASS_THROUGH.getValue()));
    factory.addEngineValves(new RequestIds());
    factory.addContextCustomizers(
        context -> {
          if (context.getParent() instanceof StandardHost host) {
            host.setErrorReportValveClass(Refusals.class.getName());
          }
          context.getPipeline().addValve(new Closing());
        });
  }

  /**
   * Lets the connection of a request be closed when it is answered, whatever the caller still wants
   * to send.
   */
  static void closeAfter(HttpServletRequest request) {
    request.setAttribute(CLOSE, true);
  }

  /** Closes connections; the server itself would wait for the rest of a body, however slow. */
  private static final class Closing extends ValveBase {
    Closing() {
      super(true);
    }

    @Override
    public void invoke(Request request, Response response) throws IOException, ServletException {
      getNext().invoke(request, response);
      if (request.getAttribute(CLOSE) != null) {
        response.finishResponse();
        request.getCoyoteRequest().action(ActionCode.CLOSE_NOW, null);
      }
    }
  }

  /** Created by the web server by class name. */
  public static final class Refusals extends ErrorReportValve {
    @Override
    protected void report(Request request, Response response, @Nullable Throwable cause) {
      int status = response.getStatus();
      if (status < HttpStatus.BAD_REQUEST.value()
          || response.getContentWritten() > 0
          || !response.setErrorReported()) {
        return;
      }
      try {
        response.setContentType(MediaType.APPLICATION_PROBLEM_JSON_VALUE);
        response.setCharacterEncoding(StandardCharsets.UTF_8);
        response.getReporter().write(Problems.json(Problems.of(status)));
        response.finishResponse();
      } catch (IOException e) {
        // The caller has disconnected.
        getContainer().getLogger().debug("a refusal was not sent", e);
      }
    }
  }
}

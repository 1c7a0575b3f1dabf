package org.mnemex.service.web;

import java.util.List;
import java.util.stream.Stream;
import org.mnemex.service.install.Installation;
import org.mnemex.service.install.RunningDefinition.RunningEndpoint;
import org.springframework.core.io.ClassPathResource;
import org.springframework.core.io.Resource;
import org.springframework.http.CacheControl;
import org.springframework.http.MediaType;
import org.springframework.http.ResponseEntity;
import org.springframework.stereotype.Controller;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PathVariable;

/**
 * The ready search pages of endpoints. All of them are the same file, which asks the endpoint what
 * to show, with the key in its address. Only the console and pages of the endpoint's origins can
 * show it in a frame.
 */
@Controller
class SearchPages {
  private static final Resource PAGE = new ClassPathResource("static/pages/index.html");

  private final Installation installation;

  SearchPages(Installation installation) {
    this.installation = installation;
  }

  @GetMapping("/pages/{endpoint}")
  ResponseEntity<Resource> page(@PathVariable String endpoint) {
    RunningEndpoint running = installation.running().endpoints().get(endpoint);
    List<String> origins = running == null ? List.of() : running.endpoint().newest().origins();
    String policy =
        "default-src 'self'; img-src 'self' data: https:; frame-ancestors "
            + String.join(" ", Stream.concat(Stream.of("'self'"), origins.stream()).toList())
            + "; base-uri 'none'; form-action 'self'";
    return ResponseEntity.ok()
        .cacheControl(CacheControl.noCache())
        .contentType(MediaType.TEXT_HTML)
        .header("Content-Security-Policy", policy)
        .body(PAGE);
  }
}

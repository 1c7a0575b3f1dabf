package org.mnemex.service.admin;

import io.swagger.v3.oas.annotations.Operation;
import io.swagger.v3.oas.annotations.tags.Tag;
import jakarta.servlet.http.HttpServletResponse;
import java.io.IOException;
import java.util.ArrayList;
import java.util.List;
import org.mnemex.service.status.Indexes;
import org.mnemex.sync.feed.ChangeTrace;
import org.springframework.http.MediaType;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.RestController;
import tools.jackson.databind.json.JsonMapper;

/** What happens, as server-sent events. */
@Tag(name = "Overview", description = "everything at once, and as it happens")
@RestController
public class EventController {
  private static final long INTERVAL_MILLIS = 500;
  private static final int CHANGES_SENT = 25;

  private final Indexes indexes;
  private final JsonMapper json;
  private volatile boolean stopping;

  public EventController(Indexes indexes, JsonMapper json) {
    this.indexes = indexes;
    this.json = json;
  }

  /**
   * The state of the whole service.
   *
   * @param indexes all indexes
   * @param changes the latest changes of all indexes, newest first
   */
  public record Overview(List<Indexes.IndexStatus> indexes, List<IndexChange> changes) {}

  /**
   * A change and the index that it reached.
   *
   * @param index the index
   * @param change the change
   * @param lagMillis time from commit to visibility, in milliseconds
   */
  public record IndexChange(String index, ChangeTrace change, long lagMillis) {}

  @Operation(summary = "Get the state of everything")
  @GetMapping("/api/overview")
  public Overview overview() {
    List<IndexChange> changes = new ArrayList<>();
    indexes
        .changes(CHANGES_SENT)
        .forEach(
            (index, last) ->
                last.forEach(
                    change -> changes.add(new IndexChange(index, change, change.lagMillis()))));
    changes.sort((a, b) -> b.change().visible().compareTo(a.change().visible()));
    return new Overview(indexes.all(), changes.subList(0, Math.min(CHANGES_SENT, changes.size())));
  }

  @Operation(summary = "Stream the state of everything")
  @GetMapping(value = "/api/events", produces = MediaType.TEXT_EVENT_STREAM_VALUE)
  public void events(HttpServletResponse response) throws IOException, InterruptedException {
    response.setContentType(MediaType.TEXT_EVENT_STREAM_VALUE);
    response.setCharacterEncoding("UTF-8");
    response.setHeader("Cache-Control", "no-store");
    var out = response.getOutputStream();
    while (!stopping) {
      out.write(
          ("event: overview\ndata: " + json.writeValueAsString(overview()) + "\n\n")
              .getBytes(java.nio.charset.StandardCharsets.UTF_8));
      // A caller that has hung up makes this fail, which ends the stream.
      out.flush();
      Thread.sleep(INTERVAL_MILLIS);
    }
  }

  /** Lets streams end, so that they do not hold up a stop. */
  @org.springframework.context.event.EventListener
  void onStop(org.springframework.context.event.ContextClosedEvent event) {
    stopping = true;
  }
}

package org.mnemex.service.admin;

import io.swagger.v3.oas.annotations.Operation;
import io.swagger.v3.oas.annotations.tags.Tag;
import jakarta.servlet.http.HttpServletResponse;
import java.io.IOException;
import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.List;
import java.util.concurrent.locks.ReentrantLock;
import org.mnemex.service.access.Caller;
import org.mnemex.service.compute.EventStreams;
import org.mnemex.service.condition.Conditions;
import org.mnemex.service.problem.ProblemException;
import org.mnemex.service.problem.ProblemType;
import org.mnemex.service.status.Indexes;
import org.mnemex.service.web.Callers;
import org.mnemex.sync.feed.ChangeTrace;
import org.springframework.context.event.ContextClosedEvent;
import org.springframework.context.event.EventListener;
import org.springframework.http.MediaType;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.RestController;
import tools.jackson.databind.json.JsonMapper;

/** What happens, as server-sent events. */
@Tag(name = "Overview", description = "everything at once, and as it happens")
@RestController
public class EventController {
  private static final long INTERVAL_MILLIS = 500;
  private static final long NANOS_PER_MILLI = 1_000_000;
  private static final int CHANGES_SENT = 25;

  private final Indexes indexes;
  private final Conditions conditions;
  private final JsonMapper json;
  private final Callers callers;
  private final EventStreams streams;
  private final ReentrantLock computing = new ReentrantLock();
  private byte[] event = {};
  private long computed;
  private volatile boolean stopping;

  public EventController(
      Indexes indexes,
      Conditions conditions,
      JsonMapper json,
      Callers callers,
      EventStreams streams) {
    this.indexes = indexes;
    this.conditions = conditions;
    this.json = json;
    this.callers = callers;
    this.streams = streams;
  }

  /**
   * The state of the whole service.
   *
   * @param indexes all indexes
   * @param conditions what somebody should know of, the oldest first
   * @param changes the latest changes of all indexes, newest first
   */
  public record Overview(
      List<Indexes.IndexStatus> indexes,
      List<Conditions.ConditionView> conditions,
      List<IndexChange> changes) {}

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
    return new Overview(
        indexes.all(),
        conditions.held(),
        changes.subList(0, Math.min(CHANGES_SENT, changes.size())));
  }

  @Operation(summary = "Stream the state of everything")
  @GetMapping(value = "/api/events", produces = MediaType.TEXT_EVENT_STREAM_VALUE)
  public void events(HttpServletResponse response) throws IOException, InterruptedException {
    Caller caller = callers.current();
    if (caller == null) {
      throw new ProblemException(ProblemType.NO_KEY, "this call needs a key");
    }
    streams.run(caller.keyId(), () -> send(caller, response));
  }

  private void send(Caller caller, HttpServletResponse response)
      throws IOException, InterruptedException {
    response.setContentType(MediaType.TEXT_EVENT_STREAM_VALUE);
    response.setCharacterEncoding("UTF-8");
    response.setHeader("Cache-Control", "no-store");
    var out = response.getOutputStream();
    while (!stopping && callers.isValid(caller)) {
      out.write(latest());
      // A caller that has hung up makes this fail, which ends the stream.
      out.flush();
      Thread.sleep(INTERVAL_MILLIS);
    }
  }

  /** The event of this interval, computed once for all streams. */
  private byte[] latest() {
    computing.lock();
    try {
      long now = System.nanoTime();
      if (event.length == 0 || now - computed > INTERVAL_MILLIS * NANOS_PER_MILLI / 2) {
        event =
            ("event: overview\ndata: " + json.writeValueAsString(overview()) + "\n\n")
                .getBytes(StandardCharsets.UTF_8);
        computed = now;
      }
      return event;
    } finally {
      computing.unlock();
    }
  }

  /** Lets streams end, so that they do not hold up a stop. */
  @EventListener
  void onStop(ContextClosedEvent event) {
    stopping = true;
  }
}

package org.mnemex.service.admin;

import de.siegmar.fastcsv.reader.CsvParseException;
import de.siegmar.fastcsv.reader.CsvReader;
import de.siegmar.fastcsv.reader.NamedCsvRecord;
import io.swagger.v3.oas.annotations.Operation;
import io.swagger.v3.oas.annotations.tags.Tag;
import jakarta.servlet.http.HttpServletRequest;
import jakarta.servlet.http.HttpServletResponse;
import java.io.BufferedReader;
import java.io.IOException;
import java.io.InputStreamReader;
import java.io.OutputStream;
import java.io.Writer;
import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import org.jspecify.annotations.Nullable;
import org.mnemex.engine.read.KeyWalk;
import org.mnemex.engine.read.Snapshot;
import org.mnemex.service.job.JobCancelledException;
import org.mnemex.service.job.JobKind;
import org.mnemex.service.job.Jobs;
import org.mnemex.service.job.StreamedJob;
import org.mnemex.service.problem.ProblemException;
import org.mnemex.service.problem.ProblemType;
import org.mnemex.service.record.CsvTable;
import org.mnemex.service.record.Imports;
import org.mnemex.service.record.Pushes;
import org.mnemex.service.status.Indexes;
import org.mnemex.sync.source.Position;
import org.springframework.web.bind.annotation.DeleteMapping;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PatchMapping;
import org.springframework.web.bind.annotation.PathVariable;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.PutMapping;
import org.springframework.web.bind.annotation.RequestBody;
import org.springframework.web.bind.annotation.RequestParam;
import org.springframework.web.bind.annotation.RestController;
import tools.jackson.core.JacksonException;
import tools.jackson.core.JsonParser;
import tools.jackson.core.JsonToken;
import tools.jackson.core.TokenStreamLocation;
import tools.jackson.databind.JsonNode;
import tools.jackson.databind.ObjectMapper;
import tools.jackson.databind.json.JsonMapper;

/** Records: pushed one by one, line by line or by a filter, and exported. */
@Tag(name = "Records", description = "records of push sources, and all stored records to export")
@RestController
public class RecordController {
  private static final ObjectMapper JSON = JsonMapper.shared();
  private static final List<String> PUSHED =
      List.of("application/x-ndjson", "text/csv", "application/json");
  private static final int LINES_PER_WRITE = 500;
  private static final int MAX_LINE = 4 << 20;

  private final Pushes pushes;
  private final Indexes indexes;
  private final Imports imports;
  private final Jobs jobs;

  public RecordController(Pushes pushes, Indexes indexes, Imports imports, Jobs jobs) {
    this.imports = imports;
    this.pushes = pushes;
    this.indexes = indexes;
    this.jobs = jobs;
  }

  /**
   * What happened to a record.
   *
   * @param key key of the record
   * @param result stored, merged or deleted
   * @param position pass it to a search as {@code true_for} to find the record in its new state
   */
  public record Written(String key, String result, String position) {}

  @Operation(
      summary = "Store a record, replacing the previous one",
      description = "It is on disk before the answer. Only for indexes over a push source.")
  @PutMapping("/api/indexes/{index}/records/{*key}")
  public Written put(
      @PathVariable String index, @PathVariable String key, @RequestBody String record) {
    return write(index, key, record, Pushes.Act.REPLACE, "stored");
  }

  @Operation(
      summary = "Change part of a record",
      description =
          "A merge patch (RFC 7396): fields that are sent replace, null removes, what is not sent"
              + " stays.")
  @PatchMapping("/api/indexes/{index}/records/{*key}")
  public Written patch(
      @PathVariable String index, @PathVariable String key, @RequestBody String record) {
    return write(index, key, record, Pushes.Act.MERGE, "merged");
  }

  @Operation(summary = "Delete a record")
  @DeleteMapping("/api/indexes/{index}/records/{*key}")
  public Written delete(@PathVariable String index, @PathVariable String key) {
    return write(index, key, "{}", Pushes.Act.DELETE, "deleted");
  }

  private Written write(String index, String path, String record, Pushes.Act act, String result) {
    Pushes.Target target = pushes.target(index);
    String key = path.startsWith("/") ? path.substring(1) : path;
    try {
      Pushes.Push push = Pushes.read(target.index(), record, key, act);
      return new Written(push.key(), result, pushes.write(target, List.of(push)).toString());
    } catch (IllegalArgumentException e) {
      throw new ProblemException(
          ProblemType.BAD_RECORD, "record '%s': %s".formatted(key, e.getMessage()));
    }
  }

  /**
   * How many records a change by filter affects.
   *
   * @param records number of records that match
   * @param changed whether they were changed; false if they were only counted
   */
  public record Merged(int records, boolean changed) {}

  @Operation(
      summary = "Change all records that match a filter",
      description =
          "With count_only=true nothing is changed, and the answer says how many there are.")
  @PatchMapping("/api/indexes/{index}/records")
  public Merged patchWhere(
      @PathVariable String index,
      @RequestParam String where,
      @RequestParam(name = "count_only", defaultValue = "false") boolean countOnly,
      @RequestBody Map<String, Object> change) {
    return new Merged(pushes.mergeWhere(index, where, change, countOnly), !countOnly);
  }

  /**
   * The result of one line.
   *
   * @param problem why it was not taken
   */
  public record Line(
      long line, @Nullable String key, @Nullable String result, @Nullable String problem) {}

  /** The last line of the answer. */
  public record Total(long taken, long refused, @Nullable String position) {}

  @Operation(
      summary = "Push many records",
      description =
          "Lines of JSON (application/x-ndjson), a list of objects (application/json), or a table"
              + " (text/csv, RFC 4180) whose first line names the fields. The answer is lines of"
              + " JSON: one for each record in the same order, then the totals. All but the first"
              + " 16 KB of it come when everything has been read. A bad line does not stop the"
              + " others. 'act' is replace, merge or delete. An import in several calls gives them the"
              + " same name as 'import', and 'more=true' in all but the last one; it is one job.")
  @PostMapping("/api/indexes/{index}/records")
  public void many(
      @PathVariable String index,
      @RequestParam(defaultValue = "replace") String act,
      @RequestParam(name = "import", required = false) @Nullable String name,
      @RequestParam(defaultValue = "false") boolean more,
      HttpServletRequest request,
      HttpServletResponse response)
      throws IOException {
    Pushes.Target target = pushes.target(index);
    Pushes.Act wanted =
        switch (act) {
          case "replace" -> Pushes.Act.REPLACE;
          case "merge" -> Pushes.Act.MERGE;
          case "delete" -> Pushes.Act.DELETE;
          default ->
              throw new ProblemException(
                  ProblemType.BAD_ACT, "act '" + act + "' is none of replace, merge, delete");
        };
    String type = String.valueOf(request.getContentType()).split(";", 2)[0].strip();
    if (!PUSHED.contains(type)) {
      throw new ProblemException(
          ProblemType.BAD_CONTENT_TYPE,
          "records must be sent as %s, not as '%s'".formatted(String.join(" or ", PUSHED), type));
    }
    response.setContentType("application/x-ndjson");
    response.setCharacterEncoding("UTF-8");
    try (HeldAnswers answers = new HeldAnswers(response.getOutputStream());
        BufferedReader in =
            new BufferedReader(
                new InputStreamReader(request.getInputStream(), StandardCharsets.UTF_8));
        Imports.Portion portion = imports.portion(target.index().name(), name, more)) {
      Batch batch = new Batch(target, wanted, answers, portion);
      try {
        if (type.equals("text/csv")) {
          csv(in, batch);
        } else if (type.equals("application/json")) {
          array(in, batch);
        } else {
          lines(in, batch);
        }
      } catch (JobCancelledException e) {
        batch.refuse(batch.line + 1, "the import was cancelled; nothing from here on is taken");
        // Whoever is sending would not read the answer before the end.
        in.transferTo(Writer.nullWriter());
      }
      batch.finish();
      answers.release();
      portion.ended(batch.taken, batch.refused);
    }
  }

  private static void lines(BufferedReader in, Batch batch) throws IOException {
    long number = 0;
    StringBuilder line = new StringBuilder();
    for (int c = in.read(); ; c = in.read()) {
      if (c >= 0 && c != '\n') {
        if (line.length() > MAX_LINE) {
          batch.refuse(number + 1, "the line is longer than %,d characters".formatted(MAX_LINE));
          return;
        }
        line.append((char) c);
        continue;
      }
      number++;
      String text = line.toString();
      line.setLength(0);
      if (!text.isBlank()) {
        batch.add(number, target -> Pushes.read(target.index(), text, null, batch.act));
      }
      if (c < 0) {
        return;
      }
    }
  }

  private static void csv(BufferedReader in, Batch batch) throws IOException {
    try (CsvReader<NamedCsvRecord> records = CsvTable.open(in)) {
      for (NamedCsvRecord record : records) {
        long line = record.getStartingLineNumber();
        String problem = CsvTable.problem(record);
        if (problem == null) {
          batch.add(
              line, target -> Pushes.of(target.index(), CsvTable.values(record), null, batch.act));
        } else {
          batch.refuse(line, problem);
        }
      }
    } catch (CsvParseException e) {
      batch.refuse(0, "this is not CSV: " + e.getMessage());
    }
  }

  /** A list of records, one in memory at a time; what is no JSON ends it. */
  private static void array(BufferedReader in, Batch batch) throws IOException {
    try (JsonParser parser = JSON.createParser(in)) {
      if (parser.nextToken() != JsonToken.START_ARRAY) {
        batch.refuse(1, "this is not a list of records");
        return;
      }
      while (parser.nextToken() == JsonToken.START_OBJECT) {
        long line = parser.currentTokenLocation().getLineNr();
        String text = parser.readValueAs(JsonNode.class).toString();
        batch.add(line, target -> Pushes.read(target.index(), text, null, batch.act));
      }
      if (parser.currentToken() != JsonToken.END_ARRAY) {
        batch.refuse(
            parser.currentTokenLocation().getLineNr(),
            "a record is not a JSON object; it ends here");
      }
    } catch (JacksonException e) {
      TokenStreamLocation at = e.getLocation();
      batch.refuse(
          at == null ? 0 : at.getLineNr(),
          "this is not JSON, and ends here: " + e.getOriginalMessage());
    }
  }

  @FunctionalInterface
  private interface Reading {
    Pushes.Push read(Pushes.Target target);
  }

  /** Lines in progress: written in portions, answered in order. */
  private final class Batch {
    private final Pushes.Target target;
    private final Pushes.Act act;
    private final OutputStream out;
    private final Imports.Portion portion;
    private final Map<String, Pushes.Push> waiting = new LinkedHashMap<>();
    private final List<Line> answers = new ArrayList<>();
    private long line;
    private long taken;
    private long refused;
    private @Nullable Position position;

    Batch(Pushes.Target target, Pushes.Act act, OutputStream out, Imports.Portion portion) {
      this.target = target;
      this.act = act;
      this.out = out;
      this.portion = portion;
    }

    void add(long number, Reading reading) throws IOException {
      line = number;
      try {
        Pushes.Push push = reading.read(target);
        if (waiting.containsKey(push.key())) {
          // A repeated key is written twice, in order.
          write();
        }
        waiting.put(push.key(), push);
        answers.add(new Line(line, push.key(), "taken", null));
        taken++;
      } catch (IllegalArgumentException e) {
        refuse(line, String.valueOf(e.getMessage()));
      }
      if (answers.size() >= LINES_PER_WRITE) {
        write();
        portion.read(taken + refused);
      }
    }

    void refuse(long number, String why) {
      answers.add(new Line(number, null, null, why));
      refused++;
    }

    private void write() throws IOException {
      if (!waiting.isEmpty()) {
        position = pushes.write(target, waiting.values());
        waiting.clear();
      }
      for (Line answer : answers) {
        line(out, answer);
      }
      answers.clear();
      out.flush();
    }

    void finish() throws IOException {
      write();
      line(out, new Total(taken, refused, position == null ? null : position.toString()));
      out.flush();
    }
  }

  private static void line(OutputStream out, Object value) throws IOException {
    out.write(JSON.writeValueAsBytes(value));
    out.write('\n');
  }

  @Operation(
      summary = "Export all stored records as NDJSON",
      description = "Each with its key and the record as it was when it was indexed.")
  @GetMapping("/api/indexes/{index}/records")
  public void export(@PathVariable String index, HttpServletResponse response) throws IOException {
    Snapshot snapshot = indexes.snapshot(index);
    response.setContentType("application/x-ndjson");
    response.setCharacterEncoding("UTF-8");
    OutputStream out = response.getOutputStream();
    KeyWalk walk = new KeyWalk(snapshot, null);
    long sent = 0;
    try (StreamedJob job = jobs.stream(JobKind.EXPORT, index, (long) snapshot.documents())) {
      while (walk.next()) {
        if (sent++ % LINES_PER_WRITE == 0) {
          job.done(sent);
        }
        out.write(
            ("{\"key\":" + JSON.writeValueAsString(walk.key()) + ",\"record\":")
                .getBytes(StandardCharsets.UTF_8));
        out.write(walk.record());
        out.write("}\n".getBytes(StandardCharsets.UTF_8));
      }
      out.flush();
      job.ended("records sent: %,d".formatted(sent));
    } catch (JobCancelledException e) {
      // Without a proper end, the caller knows that records are missing.
      throw new IOException("the export was cancelled", e);
    }
  }
}

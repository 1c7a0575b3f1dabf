package org.mnemex.service.record;

import de.siegmar.fastcsv.reader.CsvParseException;
import de.siegmar.fastcsv.reader.CsvReader;
import de.siegmar.fastcsv.reader.NamedCsvRecord;
import java.io.BufferedReader;
import java.io.IOException;
import java.io.StringReader;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import org.mnemex.service.problem.ProblemException;
import org.mnemex.service.problem.ProblemType;
import tools.jackson.core.JacksonException;
import tools.jackson.core.type.TypeReference;
import tools.jackson.databind.json.JsonMapper;

/** The first records of a file, from which definitions are proposed. */
final class SampleRecords {
  private static final int MOST = 2_000;
  private static final int TOLD = 20;

  private final List<Map<String, Object>> records = new ArrayList<>();
  private final List<String> problems = new ArrayList<>();

  private SampleRecords() {}

  /**
   * Reads them.
   *
   * @param csv whether it is a table; otherwise it is lines of JSON
   * @throws ProblemException with all lines that cannot be read
   */
  static List<Map<String, Object>> read(String text, boolean csv) {
    SampleRecords sample = new SampleRecords();
    if (csv) {
      sample.table(text);
    } else {
      sample.lines(text);
    }
    if (!sample.problems.isEmpty()) {
      int more = sample.problems.size() - TOLD;
      throw new ProblemException(
          ProblemType.BAD_RECORDS,
          String.join("; ", sample.problems.subList(0, Math.min(TOLD, sample.problems.size())))
              + (more > 0 ? "; and %,d more lines".formatted(more) : ""));
    }
    return sample.records;
  }

  private void lines(String text) {
    long number = 0;
    for (String line : text.lines().limit(MOST).toList()) {
      number++;
      if (!line.isBlank()) {
        try {
          records.add(JsonMapper.shared().readValue(line, new TypeReference<>() {}));
        } catch (JacksonException e) {
          problems.add(
              "line %,d is not a JSON object: %s".formatted(number, e.getOriginalMessage()));
        }
      }
    }
  }

  private void table(String text) {
    try (BufferedReader in = new BufferedReader(new StringReader(text));
        CsvReader<NamedCsvRecord> rows = CsvTable.open(in)) {
      for (NamedCsvRecord row : rows) {
        String problem = CsvTable.problem(row);
        if (problem != null) {
          problems.add("line %,d: %s".formatted(row.getStartingLineNumber(), problem));
        } else if (records.size() < MOST) {
          records.add(CsvTable.values(row));
        }
      }
    } catch (CsvParseException | IOException e) {
      problems.add("this is not CSV: " + e.getMessage());
    }
  }
}

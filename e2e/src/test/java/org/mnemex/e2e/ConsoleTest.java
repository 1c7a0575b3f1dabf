package org.mnemex.e2e;

import static org.assertj.core.api.Assertions.assertThat;

import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.List;
import java.util.Map;
import org.junit.jupiter.api.AfterAll;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.mnemex.client.SearchAnswer;
import org.mnemex.client.SearchQuery;
import org.openqa.selenium.By;
import org.openqa.selenium.Keys;
import org.openqa.selenium.WebDriver;
import org.openqa.selenium.WebElement;

/** The console in a real browser, as the service delivers it. */
class ConsoleTest {
  @TempDir private static Path folder;
  private static Path garden;
  private static RunningService service;
  private static Browser browser;

  @BeforeAll
  static void start() throws Exception {
    garden = GardenFiles.create(folder, 600);
    service = RunningService.start(folder);
    service.applyGarden();
    browser = Browser.start(folder.resolve("browser"));
  }

  @AfterAll
  static void stop() {
    if (browser != null) {
      browser.close();
    }
    service.close();
  }

  @AfterEach
  void noErrorsInTheBrowsersLog() {
    assertThat(browser.errors()).isEmpty();
  }

  @Test
  void overviewIsTrueAndShowsChangesAsTheyCome() throws Exception {
    browser.open(service.url + "/");
    browser.awaitText("All indexes are up to date.", "plants", "Documents");
    browser.passesAxe();
    GardenFiles.run(
        garden,
        "UPDATE accession SET height_cm = height_cm + 1 WHERE accession_no ="
            + " (SELECT min(accession_no) FROM accession WHERE status = 'planted')");
    browser.awaitText("accession", "indexed");
  }

  @Test
  void searchNarrowsMarksAndSorts() throws Exception {
    browser.open(service.url + "/console/search");
    browser.awaitText("results", "Family", "Flowers in", "June");
    browser.driver().findElement(By.cssSelector("input[type=search]")).sendKeys("damaged");
    browser.awaitAddress(address -> address.endsWith("q=damaged"));
    browser.await(driver -> !driver.findElements(By.cssSelector("ol mark")).isEmpty());
    By first = By.xpath("//fieldset[legend='Family']//li[1]//label/span[1]");
    String name = browser.await(driver -> driver.findElement(first).getText());
    browser.click(By.xpath("//fieldset[legend='Family']//label[span='" + name + "']"));
    browser.awaitAddress(address -> address.contains("q=damaged") && address.contains("family="));
    browser.await(
        driver -> {
          List<WebElement> results = driver.findElements(By.cssSelector("ol > li"));
          return !results.isEmpty()
              && results.stream().allMatch(one -> one.getText().contains("family " + name));
        });
    browser.passesAxe();
    browser.click(By.xpath("//button[contains(., '" + name + "')]"));
    browser.awaitAddress(address -> !address.contains("family="));
    browser.await(
        driver -> {
          driver.findElement(By.cssSelector("[aria-label=Sort]")).sendKeys(Keys.ENTER);
          return true;
        });
    browser.await(driver -> driver.findElements(By.cssSelector("[role=option]")).size() == 6);
    browser.click(By.xpath("//*[@role='option'][contains(., 'by tallest')]"));
    browser.awaitAddress(address -> address.contains("sort=tallest"));
  }

  @Test
  void insightsLeadFromASearchToWhatMendsIt() throws Exception {
    for (int i = 0; i < 3; i++) {
      service.client.search("plant-search", SearchQuery.words("Waterlogged"));
    }
    SearchAnswer ferns = service.client.search("plant-search", SearchQuery.words("fern"));
    service.client.chosen(
        "plant-search", String.valueOf(ferns.id()), ferns.results().getFirst().key(), 1);
    service.client.search(
        "plant-search", SearchQuery.words("fern").choose("family", "Aspleniaceae"));
    browser.open(service.url + "/console/insights?report=without-results");
    browser.awaitText("waterlogged", "Facets that people choose from");
    browser.passesAxe();
    browser.click(By.xpath("//button[@aria-label='What to do about waterlogged']"));
    browser.awaitText("Try and explain it", "rule for its results");
    browser.passesAxe();
    browser
        .driver()
        .findElement(By.xpath("//label[contains(., 'means the same as')]/input"))
        .sendKeys("standing water", Keys.ENTER);
    browser.awaitText("[waterlogged, standing water]", "With your changes");
    browser.click(By.xpath("//button[contains(., 'Show the plan')]"));
    browser.click(By.xpath("//button[contains(., 'Apply this plan')]"));
    browser.await(
        driver ->
            service.client.search("plant-search", SearchQuery.words("waterlogged")).found() > 0);
    browser.open(service.url + "/console/insights?report=grades");
    browser.awaitText("What people opened, as grades for a scorecard.");
    browser.passesAxe();
  }

  @Test
  void jobsAreListedWithTheirResults() throws Exception {
    service.client.audit("plants", false);
    browser.open(service.url + "/console/jobs");
    browser.awaitText("audit plants", "fill plants", "records agree");
    browser.click(By.xpath("//button[contains(., 'audit plants')]"));
    browser.awaitText("What it found, as JSON");
    browser.passesAxe();
  }

  @Test
  void analysersShowEveryStep() throws Exception {
    browser.open(service.url + "/console/analysers");
    browser.awaitText("stem: english", "possessive");
    WebElement text = browser.driver().findElement(By.tagName("textarea"));
    text.sendKeys(Keys.chord(Keys.CONTROL, "a"), "Running ferns");
    browser.awaitText("run", "fern");
    browser.passesAxe();
  }

  @Test
  void sourcesShowWhatIsNeededAndWhatIsThere() throws Exception {
    browser.open(service.url + "/console/sources");
    browser.awaitText(
        "Connected. Everything the indexes need is in place.", "journal and triggers");
    browser.click(By.xpath("//button[contains(., 'sighting')]"));
    browser.awaitText("observer", "key id");
    // What is under never is not shown either.
    browser.click(By.xpath("//button[span='person']"));
    browser.await(
        driver ->
            !driver
                .findElements(By.xpath("//section[contains(@aria-label, 'person')]//td"))
                .isEmpty());
    assertThat(browser.driver().findElement(By.tagName("body")).getText())
        .doesNotContain("@quillmere");
    browser.click(By.xpath("//button[span='accession']"));
    browser.click(By.xpath("//button[contains(., 'Propose an index')]"));
    browser.awaitText("index: accession", "# the primary key");
    browser.passesAxe();
  }

  @Test
  void syncShowsLagTroubleAndAudits() throws Exception {
    browser.open(service.url + "/console/sync");
    browser.awaitText(
        "plants follows garden",
        "Up to date with its database.",
        "Maximum lag",
        "Quarantine is empty");
    GardenFiles.run(
        garden,
        "UPDATE accession SET planted_on = 'someday' WHERE accession_no ="
            + " (SELECT min(accession_no) FROM accession WHERE status = 'planted')");
    browser.awaitText("'someday' is not a date like 2026-05-04");
    browser.passesAxe();
    browser.click(By.xpath("//button[.='Dismiss']"));
    browser.awaitText("dismissed, since");
    GardenFiles.run(
        garden, "UPDATE accession SET planted_on = '2020-01-01' WHERE planted_on = 'someday'");
    browser.awaitText("Quarantine is empty");
    browser.click(By.xpath("//button[.='Audit now']"));
    browser.awaitText("0 missing, 0 stale, 0 extra");
    browser.click(By.xpath("//button[.='Pause']"));
    browser.awaitText("The feed is paused");
    browser.click(By.xpath("//button[.='Go on']"));
    browser.awaitText("Up to date with its database.");
  }

  private static WebElement editor(WebDriver driver) {
    return driver.findElement(
        By.cssSelector(".cm-content[aria-label='Definition of index plants']"));
  }

  @Test
  void indexShowsWhatItIsMadeOfAndWhatADefinitionWouldMakeOfARecord() throws Exception {
    int version = service.client.index("plants").version();
    browser.open(service.url + "/console/indexes");
    browser.awaitText(
        "Index plants",
        "Never read: person.email, person.phone",
        "through accession_label",
        "27 fields",
        "From row to terms",
        "latin_name");
    browser.passesAxe();
    WebElement text = browser.await(ConsoleTest::editor);
    text.sendKeys(Keys.chord(Keys.CONTROL, Keys.END), "  code: {from: bed.code, type: exact, an");
    browser.await(driver -> driver.findElement(By.cssSelector(".cm-tooltip-autocomplete li")));
    text.sendKeys(Keys.ENTER);
    assertThat(text.getText()).contains("type: exact, analyser: ");
    browser.awaitText("The definition has errors");
    browser.await(driver -> driver.findElement(By.cssSelector(".cm-lint-marker-error")));
    for (int i = 0; i < ", analyser: ".length(); i++) {
      text.sendKeys(Keys.BACK_SPACE);
    }
    text.sendKeys("}\n");
    browser.await(
        driver ->
            driver
                .findElement(By.cssSelector("[aria-label='Preview']"))
                .getText()
                .matches("(?s).*\\bcode\\s+B\\d+.*"));
    assertThat(service.client.index("plants").version()).isEqualTo(version);
  }

  @Test
  void editionsAreChangedComparedGradedAndTakenBack() throws Exception {
    browser.open(service.url + "/console/editions");
    browser.awaitText("Editions of plants", "Change a definition", "No scorecard yet");
    WebElement text = browser.await(ConsoleTest::editor);
    text.sendKeys(Keys.chord(Keys.CONTROL, Keys.END), "  code: {from: bed.code, type: exact}\n");
    browser.click(By.xpath("//button[.='Show the plan']"));
    browser.awaitText(
        "a new field whose values are in the stored records", "nothing read from the database");
    browser.passesAxe();
    browser.click(By.xpath("//button[.='Apply this plan']"));
    browser.awaitText("Promote edition 2");
    browser
        .driver()
        .findElement(By.xpath("//section[@aria-label='Comparison']//textarea"))
        .sendKeys("rose\nfern");
    browser.click(By.xpath("//button[.='Compare']"));
    browser.awaitText("0.0% of the first 10 results of 2 queries differ");
    browser.click(By.xpath("//button[.='Grade results']"));
    browser
        .driver()
        .findElement(By.xpath("//input[@aria-label='Query to grade']"))
        .sendKeys("rose", Keys.ENTER);
    browser.click(By.xpath("(//label[normalize-space()='exactly this'])[1]"));
    browser.click(By.xpath("//button[.='Keep these grades']"));
    browser.awaitText("graded: 1 query of plant-search");
    browser.click(By.xpath("//button[.='Score edition 2']"));
    browser.awaitText("nDCG@10", "1.000");
    browser.click(By.xpath("//button[.='Promote edition 2']"));
    browser.awaitText("Roll back to edition 1");
    browser.passesAxe();
    browser.click(By.xpath("//button[.='Roll back to edition 1']"));
    browser.awaitText("Roll back to edition 2");
  }

  @Test
  void anEndpointIsSetPreviewedAndHandedOver() throws Exception {
    service.client.apply(
        Map.of(
            "walk.yaml",
            """
            endpoint: walk-search # for the walks
            index: plants
            search: {name: 5, notes: 1}
            facets: {family: {field: family, title: Family}, bed: {field: bed, title: Bed}}
            sorts: {best: relevance, name: name_sort}
            show: [name, bed, notes]
            card: {title: name}
            """));
    browser.open(service.url + "/console/endpoints?endpoint=walk-search");
    browser.awaitText("Endpoint walk-search", "As it is now");
    WebElement words =
        browser.driver().findElement(By.xpath("//input[@aria-label='Words to try']"));
    words.sendKeys("rose");
    WebElement weight =
        browser.driver().findElement(By.xpath("//*[@aria-label='Weight of notes']"));
    weight.sendKeys(Keys.ARROW_RIGHT, Keys.ARROW_RIGHT);
    browser.click(By.xpath("//button[@aria-label='Move bed up']"));
    browser.awaitText(
        "endpoint: walk-search # for the walks",
        "search: {name: 5, notes: 2}",
        "facets: {bed: {field: bed, title: Bed}, family: {field: family, title: Family}}",
        "With your changes");
    browser.passesAxe();
    browser.click(By.xpath("//button[.='Answer as JSON']"));
    browser.await(
        driver -> {
          String answer =
              driver
                  .findElement(By.xpath("//section[@aria-label='With your changes']//pre"))
                  .getText();
          return answer.indexOf("\"bed\": {") < answer.indexOf("\"family\": {");
        });
    browser.click(By.xpath("//button[.='Page']"));
    browser.await(
        driver -> {
          driver
              .switchTo()
              .frame(driver.findElement(By.xpath("//iframe[contains(@title, 'your changes')]")));
          try {
            return driver.findElement(By.tagName("body")).getText().contains("results")
                && driver.findElement(By.tagName("input")).getDomProperty("value").equals("rose");
          } finally {
            driver.switchTo().defaultContent();
          }
        });
    browser.passesAxe();
    browser.click(By.xpath("//button[.='Show the plan']"));
    browser.click(By.xpath("//button[.='Apply this plan']"));
    browser.awaitText("This service asks for no key.");
    browser.await(
        driver ->
            driver.findElements(By.xpath("//section[@aria-label='With your changes']")).isEmpty());
    assertThat(service.client.search("walk-search", SearchQuery.words("rose")).facets().keySet())
        .containsExactly("bed", "family");
    Process copied = new ProcessBuilder("sh", "-c", codeFor("curl")).start();
    assertThat(new String(copied.getInputStream().readAllBytes(), StandardCharsets.UTF_8))
        .contains("\"total\":{\"count\":");
    JavaExample.run(
        codeFor("Java").replace("ClientOptions.usual().key(key)", "ClientOptions.usual()"),
        service.url,
        folder);
    assertThat(codeFor("Spring")).contains("walk-search");
    assertThat(codeFor("React")).contains("<SearchProvider");
    browser.awaitText("<FacetList name=\"bed\" />");
    assertThat(codeFor("JavaScript")).contains("one.fields.name");
  }

  private static String codeFor(String language) {
    browser.click(By.xpath("//section[@aria-label='Use it']//button[.='" + language + "']"));
    return browser.await(
        driver ->
            driver
                .findElement(By.cssSelector("[aria-label='Use it'] [data-state=active] pre"))
                .getText());
  }

  @Test
  void aCurationIsMadeFromResults() throws Exception {
    List<String> keys =
        service.client.search("plant-search", SearchQuery.words("magnolia")).results().stream()
            .map(SearchAnswer.Result::key)
            .toList();
    browser.open(service.url + "/console/endpoints?endpoint=plant-search&definition=new+curation");
    browser.awaitText("Name of the curation");
    browser
        .driver()
        .findElement(By.xpath("//input[@aria-label='Words to try']"))
        .sendKeys("magnolia");
    browser.click(By.xpath("//button[@aria-label='Put first: " + keys.get(3) + "']"));
    browser.awaitText("With your changes", "Rule magnolia of plant-search-rules applies", "was 4");
    browser.click(
        By.xpath(
            "//section[@aria-label='With your changes']//button[@aria-label='Hide: "
                + keys.getFirst()
                + "']"));
    browser.awaitText("hide: [" + keys.getFirst() + "]");
    browser.passesAxe();
    browser.click(By.xpath("//button[.='Show the plan']"));
    browser.click(By.xpath("//button[.='Apply this plan']"));
    browser.awaitText("version 1", "Versions");
    List<String> curated =
        service.client.search("plant-search", SearchQuery.words("magnolia")).results().stream()
            .map(SearchAnswer.Result::key)
            .toList();
    assertThat(curated).startsWith(keys.get(3), keys.get(1)).doesNotContain(keys.getFirst());
  }

  @Test
  void aFileIsDraftedAppliedAndImported() throws Exception {
    StringBuilder rows = new StringBuilder("id,name,shelf\n");
    for (int i = 0; i < 40; i++) {
      rows.append("%d,Poppy seeds %d,%s\n".formatted(i, i, i % 2 == 0 ? "north" : "south"));
    }
    Path seeds =
        Files.writeString(folder.resolve("seeds.csv"), rows.append("40,too,many,values\n"));
    browser.open(service.url + "/console/sources");
    browser.awaitText("Start from a file");
    By input = By.cssSelector("input[type=file]");
    browser.driver().findElement(input).sendKeys(seeds.toString());
    browser.awaitText("line 42: it has 4 values, and the first line names 3 columns");
    assertThat(browser.errors()).allMatch(error -> error.contains("/api/draft"));
    Files.writeString(seeds, rows.toString().replace("40,too,many,values", ",no key,north"));
    browser.driver().navigate().refresh();
    browser.awaitText("Start from a file");
    browser.driver().findElement(input).sendKeys(seeds.toString());
    browser.click(By.xpath("//button[.='Show the plan']"));
    browser.awaitText("index seeds", "is new");
    browser.passesAxe();
    browser.click(By.xpath("//button[.='Apply this plan']"));
    browser.click(By.xpath("//button[contains(., 'Import seeds.csv')]"));
    browser.awaitText(
        "40 records taken, 1 refused.", "line 42", "Open the search page of seeds-search");
    browser.passesAxe();
  }
}

package org.mnemex.e2e;

import static org.assertj.core.api.Assertions.assertThat;

import java.nio.file.Files;
import java.nio.file.Path;
import java.time.Duration;
import java.util.List;
import java.util.function.Function;
import java.util.function.Predicate;
import java.util.logging.Level;
import org.junit.jupiter.api.AfterAll;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.openqa.selenium.By;
import org.openqa.selenium.ElementClickInterceptedException;
import org.openqa.selenium.Keys;
import org.openqa.selenium.StaleElementReferenceException;
import org.openqa.selenium.WebDriver;
import org.openqa.selenium.WebElement;
import org.openqa.selenium.chrome.ChromeDriver;
import org.openqa.selenium.chrome.ChromeDriverService;
import org.openqa.selenium.chrome.ChromeOptions;
import org.openqa.selenium.logging.LogEntry;
import org.openqa.selenium.logging.LogType;
import org.openqa.selenium.logging.LoggingPreferences;
import org.openqa.selenium.support.ui.WebDriverWait;

/** The console in a real browser, as the service delivers it. */
class ConsoleTest {
  @TempDir private static Path folder;
  private static Path garden;
  private static RunningService service;
  private static ChromeDriver browser;

  @BeforeAll
  static void start() throws Exception {
    garden = GardenFiles.create(folder, 600);
    service = RunningService.start(folder);
    service.applyGarden();
    ChromeOptions options = new ChromeOptions();
    options.setBinary("/usr/bin/chromium");
    options.addArguments(
        "--headless=new",
        "--no-sandbox",
        "--disable-dev-shm-usage",
        "--disable-gpu",
        "--window-size=1280,800",
        "--hide-scrollbars",
        "--user-data-dir=" + folder.resolve("browser"),
        "--no-first-run",
        "--disable-background-networking",
        "--disable-component-update",
        "--disable-sync");
    LoggingPreferences logging = new LoggingPreferences();
    logging.enable(LogType.BROWSER, Level.ALL);
    options.setCapability("goog:loggingPrefs", logging);
    browser =
        new ChromeDriver(
            new ChromeDriverService.Builder()
                .usingDriverExecutable(Path.of("/usr/bin/chromedriver").toFile())
                .usingAnyFreePort()
                .build(),
            options);
  }

  @AfterAll
  static void stop() {
    if (browser != null) {
      browser.quit();
    }
    service.close();
  }

  @AfterEach
  void noErrorsInTheBrowsersLog() {
    List<String> errors =
        browser.manage().logs().get(LogType.BROWSER).getAll().stream()
            .filter(entry -> entry.getLevel().intValue() >= Level.SEVERE.intValue())
            .map(LogEntry::getMessage)
            .toList();
    assertThat(errors).isEmpty();
  }

  private static void open(String path) {
    browser.get(service.url + path);
  }

  /**
   * Waits until {@code question} has an answer that is neither null nor false. The page may be
   * drawn anew while it is asked.
   */
  private static <T> T await(Function<WebDriver, T> question) {
    return new WebDriverWait(browser, Duration.ofMinutes(3))
        .ignoring(StaleElementReferenceException.class, ElementClickInterceptedException.class)
        .until(question);
  }

  /** Waits until the page's text has all of the parts. */
  private static void awaitText(String... parts) {
    await(
        driver -> {
          String text = driver.findElement(By.tagName("body")).getText();
          return List.of(parts).stream().allMatch(text::contains);
        });
  }

  private static void click(By element) {
    await(
        driver -> {
          driver.findElement(element).click();
          return true;
        });
  }

  private static void awaitAddress(Predicate<String> wanted) {
    await(driver -> wanted.test(String.valueOf(driver.getCurrentUrl())));
  }

  private static void passesAxe() throws Exception {
    String axe =
        Files.readString(RunningService.root().resolve("console/node_modules/axe-core/axe.min.js"));
    browser.executeScript(axe);
    Object violations =
        browser.executeAsyncScript(
            "const done = arguments[0];"
                + "axe.run().then(r => done(r.violations.map("
                + "v => v.id + ' ' + v.nodes.map(n => n.html).join(' | '))));");
    assertThat((List<?>) violations).isEmpty();
    Object tooWide =
        browser.executeScript(
            "return [...document.querySelectorAll('body *')].filter(e =>"
                + " e.getBoundingClientRect().right > document.documentElement.clientWidth + 1"
                + " && !e.closest('svg, .cm-editor, [class*=overflow]')).map(e => e.outerHTML.slice(0, 200))");
    assertThat((List<?>) tooWide).isEmpty();
  }

  @Test
  void overviewIsTrueAndShowsChangesAsTheyCome() throws Exception {
    open("/");
    awaitText("All indexes are up to date.", "plants", "Documents");
    passesAxe();
    GardenFiles.run(
        garden,
        "UPDATE accession SET height_cm = height_cm + 1 WHERE accession_no ="
            + " (SELECT min(accession_no) FROM accession WHERE status = 'planted')");
    awaitText("accession", "indexed");
  }

  @Test
  void searchNarrowsMarksAndSorts() throws Exception {
    open("/console/search");
    awaitText("results", "Family", "Flowers in", "June");
    browser.findElement(By.cssSelector("input[type=search]")).sendKeys("damaged");
    awaitAddress(address -> address.endsWith("q=damaged"));
    await(driver -> !driver.findElements(By.cssSelector("ol mark")).isEmpty());
    By first = By.xpath("//fieldset[legend='Family']//li[1]//label/span[1]");
    String name = await(driver -> driver.findElement(first).getText());
    click(By.xpath("//fieldset[legend='Family']//label[span='" + name + "']"));
    awaitAddress(address -> address.contains("q=damaged") && address.contains("family="));
    await(
        driver -> {
          List<WebElement> results = driver.findElements(By.cssSelector("ol > li"));
          return !results.isEmpty()
              && results.stream().allMatch(one -> one.getText().contains("family " + name));
        });
    passesAxe();
    click(By.xpath("//button[contains(., '" + name + "')]"));
    awaitAddress(address -> !address.contains("family="));
    await(
        driver -> {
          driver.findElement(By.cssSelector("[aria-label=Sort]")).sendKeys(Keys.ENTER);
          return true;
        });
    await(driver -> driver.findElements(By.cssSelector("[role=option]")).size() == 6);
    click(By.xpath("//*[@role='option'][contains(., 'by tallest')]"));
    awaitAddress(address -> address.contains("sort=tallest"));
  }

  @Test
  void analysersShowEveryStep() throws Exception {
    open("/console/analysers");
    awaitText("stem: english", "possessive");
    WebElement text = browser.findElement(By.tagName("textarea"));
    text.sendKeys(Keys.chord(Keys.CONTROL, "a"), "Running ferns");
    awaitText("run", "fern");
    passesAxe();
  }

  @Test
  void sourcesShowWhatIsNeededAndWhatIsThere() throws Exception {
    open("/console/sources");
    awaitText("Connected. Everything the indexes need is in place.", "journal and triggers");
    click(By.xpath("//button[contains(., 'sighting')]"));
    awaitText("observer", "key id");
    // What is under never is not shown either.
    click(By.xpath("//button[span='person']"));
    await(
        driver ->
            !driver
                .findElements(By.xpath("//section[contains(@aria-label, 'person')]//td"))
                .isEmpty());
    assertThat(browser.findElement(By.tagName("body")).getText()).doesNotContain("@quillmere");
    click(By.xpath("//button[span='accession']"));
    click(By.xpath("//button[contains(., 'Propose an index')]"));
    awaitText("index: accession", "# the primary key");
    passesAxe();
  }

  @Test
  void syncShowsLagTroubleAndAudits() throws Exception {
    open("/console/sync");
    awaitText(
        "plants follows garden",
        "Up to date with its database.",
        "Maximum lag",
        "Quarantine is empty");
    GardenFiles.run(
        garden,
        "UPDATE accession SET planted_on = 'someday' WHERE accession_no ="
            + " (SELECT min(accession_no) FROM accession WHERE status = 'planted')");
    awaitText("'someday' is not a date like 2026-05-04");
    passesAxe();
    click(By.xpath("//button[.='Dismiss']"));
    awaitText("dismissed, since");
    GardenFiles.run(
        garden, "UPDATE accession SET planted_on = '2020-01-01' WHERE planted_on = 'someday'");
    awaitText("Quarantine is empty");
    click(By.xpath("//button[.='Audit now']"));
    awaitText("0 missing, 0 stale, 0 extra");
    click(By.xpath("//button[.='Pause']"));
    awaitText("The feed is paused");
    click(By.xpath("//button[.='Go on']"));
    awaitText("Up to date with its database.");
  }

  private static WebElement editor(WebDriver driver) {
    return driver.findElement(
        By.cssSelector(".cm-content[aria-label='Definition of index plants']"));
  }

  @Test
  void indexShowsWhatItIsMadeOfAndWhatADefinitionWouldMakeOfARecord() throws Exception {
    int version = service.client.index("plants").version();
    open("/console/indexes");
    awaitText(
        "Index plants",
        "Never read: person.email, person.phone",
        "through accession_label",
        "27 fields",
        "From row to terms",
        "latin_name");
    passesAxe();
    WebElement text = await(ConsoleTest::editor);
    text.sendKeys(Keys.chord(Keys.CONTROL, Keys.END), "  code: {from: bed.code, type: exact, an");
    await(driver -> driver.findElement(By.cssSelector(".cm-tooltip-autocomplete li")));
    text.sendKeys(Keys.ENTER);
    assertThat(text.getText()).contains("type: exact, analyser: ");
    awaitText("The definition has errors");
    await(driver -> driver.findElement(By.cssSelector(".cm-lint-marker-error")));
    for (int i = 0; i < ", analyser: ".length(); i++) {
      text.sendKeys(Keys.BACK_SPACE);
    }
    text.sendKeys("}\n");
    await(
        driver ->
            driver
                .findElement(By.cssSelector("[aria-label='Preview']"))
                .getText()
                .matches("(?s).*\\bcode\\s+B\\d+.*"));
    assertThat(service.client.index("plants").version()).isEqualTo(version);
  }

  @Test
  void editionsAreChangedComparedGradedAndTakenBack() throws Exception {
    open("/console/editions");
    awaitText("Editions of plants", "Change a definition", "No scorecard yet");
    WebElement text = await(ConsoleTest::editor);
    text.sendKeys(Keys.chord(Keys.CONTROL, Keys.END), "  code: {from: bed.code, type: exact}\n");
    click(By.xpath("//button[.='Show the plan']"));
    awaitText(
        "a new field whose values are in the stored records", "nothing read from the database");
    passesAxe();
    click(By.xpath("//button[.='Apply this plan']"));
    awaitText("Promote edition 2");
    browser
        .findElement(By.xpath("//section[@aria-label='Comparison']//textarea"))
        .sendKeys("rose\nfern");
    click(By.xpath("//button[.='Compare']"));
    awaitText("0.0% of the first 10 results of 2 queries differ");
    click(By.xpath("//button[.='Grade results']"));
    browser
        .findElement(By.xpath("//input[@aria-label='Query to grade']"))
        .sendKeys("rose", Keys.ENTER);
    click(By.xpath("(//label[normalize-space()='exactly this'])[1]"));
    click(By.xpath("//button[.='Keep these grades']"));
    awaitText("graded: 1 query of plant-search");
    click(By.xpath("//button[.='Score edition 2']"));
    awaitText("nDCG@10", "1.000");
    click(By.xpath("//button[.='Promote edition 2']"));
    awaitText("Roll back to edition 1");
    passesAxe();
    click(By.xpath("//button[.='Roll back to edition 1']"));
    awaitText("Roll back to edition 2");
  }
}

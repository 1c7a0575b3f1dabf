package org.mnemex.e2e;

import static org.assertj.core.api.Assertions.assertThat;

import java.io.IOException;
import java.net.InetAddress;
import java.net.ServerSocket;
import java.net.Socket;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.List;
import java.util.Map;
import java.util.concurrent.TimeUnit;
import org.junit.jupiter.api.AfterAll;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.openqa.selenium.By;
import org.openqa.selenium.JavascriptExecutor;
import org.openqa.selenium.Keys;
import org.openqa.selenium.WebElement;

/** The example shop beside the service, in a browser. */
class GardenShopTest {
  private static final Path SHOP = RunningService.root().resolve("examples/garden-shop");

  @TempDir private static Path folder;
  private static RunningService service;
  private static Process shop;
  private static String address;
  private static Browser browser;

  @BeforeAll
  static void start() throws Exception {
    service = RunningService.start(folder);
    int port;
    try (ServerSocket free = new ServerSocket(0)) {
      port = free.getLocalPort();
    }
    address = "http://127.0.0.1:" + port;
    shop =
        new ProcessBuilder(
                Path.of(System.getProperty("java.home"), "bin", "java").toString(),
                "-XX:TieredStopAtLevel=1",
                "--enable-native-access=ALL-UNNAMED",
                "-jar",
                SHOP.resolve("target/garden-shop-app.jar").toString(),
                "--server.port=" + port,
                "--mnemex.client.url=" + service.url)
            .directory(folder.toFile())
            .redirectErrorStream(true)
            .redirectOutput(folder.resolve("shop.log").toFile())
            .start();
    RunningService.await(() -> !shop.isAlive() || listens(port));
    service.client.apply(Map.of("shop.yaml", Files.readString(SHOP.resolve("mnemex/shop.yaml"))));
    service.awaitLive("products");
    browser = Browser.start(folder.resolve("browser"));
  }

  private static boolean listens(int port) {
    try (Socket socket = new Socket(InetAddress.getLoopbackAddress(), port)) {
      return socket.isConnected();
    } catch (IOException e) {
      return false;
    }
  }

  @AfterAll
  static void stop() throws Exception {
    if (browser != null) {
      browser.close();
    }
    shop.destroy();
    shop.waitFor(1, TimeUnit.MINUTES);
    service.close();
  }

  private static List<String> products() {
    return browser.driver().findElements(By.cssSelector(".products h2")).stream()
        .map(WebElement::getText)
        .toList();
  }

  @Test
  void aVisitorFindsFiltersAndBuys() throws Exception {
    browser.open(address);
    browser.awaitText("44 products", "Kind", "terracotta");
    browser.passesAxe();
    WebElement box = browser.driver().findElement(By.id("q"));
    box.sendKeys("fer");
    browser.await(
        page ->
            page.findElements(By.cssSelector("#offers option")).stream()
                .anyMatch(one -> String.valueOf(one.getDomAttribute("value")).contains("Fern")));
    box.sendKeys("n", Keys.ENTER);
    browser.awaitAddress(at -> at.contains("q=fern"));
    assertThat(products()).isNotEmpty().first().asString().containsIgnoringCase("fern");
    browser.click(By.xpath("//label[input[@value='Books']]"));
    browser.click(By.xpath("//form[contains(@class, 'facets')]/button"));
    browser.awaitAddress(at -> at.contains("kind=Books"));
    assertThat(products()).isNotEmpty().allMatch(name -> name.startsWith("The fern house"));

    // A purchase changes a row; nothing but the database tells the index.
    browser.open(address + "/?in_stock=true");
    String before = browser.driver().findElement(By.cssSelector("[role=status]")).getText();
    browser.open(address + "/?q=dibber");
    By dibber = By.xpath("//li[h2[starts-with(., 'Dibber')]][.//button[not(@disabled)]][1]");
    String name =
        browser.await(page -> page.findElement(dibber).findElement(By.tagName("h2")).getText());
    By shown = By.xpath("//li[h2[.='" + name + "']]");
    int stock =
        Integer.parseInt(
            browser.await(
                page ->
                    page.findElement(shown)
                        .getText()
                        .replaceAll("(?s).*?(\\d+) in stock.*", "$1")));
    for (int left = stock - 1; left >= 0; left--) {
      browser.click(By.xpath("//li[h2[.='" + name + "']]//button"));
      String told = left == 0 ? "sold out" : left + " in stock";
      browser.await(page -> page.findElement(shown).getText().contains(told));
    }
    RunningService.await(
        () -> {
          browser.open(address + "/?in_stock=true");
          return !browser
              .driver()
              .findElement(By.cssSelector("[role=status]"))
              .getText()
              .equals(before);
        });
    assertThat(browser.errors()).isEmpty();

    // Without the search there is still a shop.
    service.close();
    browser.open(address);
    browser.awaitText("The search is being repaired");
    browser.driver().findElement(By.id("q")).sendKeys("f");
    browser.await(
        page ->
            ((JavascriptExecutor) page)
                .executeScript(
                    """
                    return performance.getEntriesByType("resource")
                        .some(one => one.name.includes("/suggest") && one.responseEnd > 0)
                    """)
                .equals(true));
    assertThat(browser.errors()).isEmpty();
  }
}

using OpenQA.Selenium;
using OpenQA.Selenium.Chrome;

namespace Eidolon.Screenshots;

/// <summary>Headless Chromium with software WebGL, and waits on conditions.</summary>
public sealed class Browser : IDisposable
{
    /// <summary>How long anything may take, seconds: a machine without a graphics card and with other work on it is slow, not broken.</summary>
    private const double Patience = Chrome.Patience;

    private readonly double _scale;
    private readonly Chrome _chrome;
    private readonly bool _own;

    /// <param name="downloads">Where files go that pages offer.</param>
    /// <param name="scale">Pixels of a picture to those of the page: below 1 what is drawn is coarser, and drawn sooner.</param>
    /// <param name="paints">
    /// Off: whatever is drawn in 3D is told to the graphics context, but not put on the picture. Scripts run as ever; a picture in software costs more
    /// than all of them.
    /// </param>
    /// <param name="shared">A browser that runs already: this is a tab of it that knows nothing of the tabs before. Null starts one.</param>
    public Browser(string address, string? downloads = null, double scale = 1, bool paints = true, Chrome? shared = null)
    {
        (Address, _scale, _own) = (address, scale, shared is null);
        _chrome = shared ?? new Chrome();
        if (shared is not null)
        {
            Driver.SwitchTo().NewWindow(WindowType.Tab);
            Problems();
        }

        Command("Browser.setDownloadBehavior", ("behavior", downloads is null ? "default" : "allow"), ("downloadPath", downloads));
        // Pages behave as if they were looked at, whichever window has the keyboard.
        Command("Emulation.setFocusEmulationEnabled", ("enabled", true));
        Size(1280, 800);
        if (!paints)
        {
            Command(
                "Page.addScriptToEvaluateOnNewDocument",
                (
                    "source",
                    """
                    for (const name of ['drawArrays', 'drawElements', 'drawArraysInstanced', 'drawElementsInstanced', 'drawRangeElements'])
                      WebGL2RenderingContext.prototype[name] = () => {};
                    """
                )
            );
        }
    }

    public string Address { get; }

    public ChromeDriver Driver => _chrome.Driver;

    /// <summary>Sets the size of the page itself, whatever the window adds.</summary>
    public void Size(int width, int height) =>
        Command(
            "Emulation.setDeviceMetricsOverride",
            ("width", width),
            ("height", height),
            ("deviceScaleFactor", _scale),
            ("mobile", false)
        );

    private void Command(string name, params (string Key, object? Value)[] parameters) =>
        Driver.ExecuteCdpCommand(name, parameters.Where(p => p.Value is not null).ToDictionary(p => p.Key, p => p.Value));

    /// <summary>Opens a page and waits until its Stage is drawn (or, without one, until it is loaded).</summary>
    public void Open(string path)
    {
        Driver.Navigate().GoToUrl(Address + path);
        Ready();
    }

    public void Ready() =>
        Until(
            "return document.readyState === 'complete' && (!document.querySelector('[data-page]') || document.body.dataset.ready === 'true')",
            "the page to be ready"
        );

    public object? Js(string script, params object[] arguments) => Driver.ExecuteScript(script, arguments);

    public IWebElement One(string css)
    {
        Until($"return !!document.querySelector({System.Text.Json.JsonSerializer.Serialize(css)})", css);
        return Driver.FindElement(By.CssSelector(css));
    }

    public bool Has(string css) => Driver.FindElements(By.CssSelector(css)).Count > 0;

    public void Until(string script, string what, double seconds = Patience)
    {
        var end = DateTime.UtcNow.AddSeconds(seconds);
        while (true)
        {
            try
            {
                if (Driver.ExecuteScript(script) is true)
                {
                    return;
                }
            }
            catch (Exception e) when (e is JavaScriptException or StaleElementReferenceException)
            {
                // The page is being replaced; ask again.
            }

            if (DateTime.UtcNow > end)
            {
                throw new TimeoutException($"waited {seconds:0} s for {what} at {Driver.Url}: {string.Join(" | ", Problems())}");
            }

            Thread.Sleep(40);
        }
    }

    /// <summary>What the browser complained about.</summary>
    public IReadOnlyList<string> Problems() =>
        [.. Driver.Manage().Logs.GetLog(LogType.Browser).Where(l => l.Level >= LogLevel.Severe).Select(l => l.Message)];

    public void Save(string file) => Driver.GetScreenshot().SaveAsFile(file);

    public void Dispose()
    {
        if (_own)
        {
            _chrome.Dispose();
            return;
        }

        // What one test left in the browser is not there for the next.
        Command("Network.clearBrowserCookies");
        Command("Storage.clearDataForOrigin", ("origin", Address), ("storageTypes", "all"));
        foreach (var tab in Driver.WindowHandles.Where(h => h != _chrome.First).ToList())
        {
            Driver.SwitchTo().Window(tab);
            Driver.Close();
        }

        Driver.SwitchTo().Window(_chrome.First);
    }
}

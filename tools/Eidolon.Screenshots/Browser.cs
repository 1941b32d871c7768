using OpenQA.Selenium;
using OpenQA.Selenium.Chrome;

namespace Eidolon.Screenshots;

/// <summary>Headless Chromium with software WebGL, and waits on conditions.</summary>
public sealed class Browser : IDisposable
{
    /// <summary>How long anything may take, seconds: a machine without a graphics card and with other work on it is slow, not broken.</summary>
    private const double Patience = 300;

    private readonly string _profile = Directory.CreateTempSubdirectory("eidolon-browser").FullName;

    private readonly double _scale;

    /// <param name="downloads">Where files go that pages offer.</param>
    /// <param name="scale">Pixels of a picture to those of the page: below 1 what is drawn is coarser, and drawn sooner.</param>
    /// <param name="paints">
    /// Off: whatever is drawn in 3D is told to the graphics context, but not put on the picture. Scripts run as ever; a picture in software costs more
    /// than all of them.
    /// </param>
    public Browser(string address, string? downloads = null, double scale = 1, bool paints = true)
    {
        (Address, _scale) = (address, scale);
        var options = new ChromeOptions { BinaryLocation = Find("chromium") };
        options.AddArguments(
            "--headless=new",
            "--no-sandbox",
            "--disable-dev-shm-usage",
            "--use-angle=swiftshader",
            "--enable-unsafe-swiftshader",
            "--disable-quic",
            "--no-first-run",
            "--disable-background-networking",
            "--disable-component-update",
            "--disable-sync",
            "--hide-scrollbars",
            "--window-size=1280,800",
            $"--user-data-dir={_profile}"
        );
        options.SetLoggingPreference(LogType.Browser, LogLevel.Warning);
        if (downloads is not null)
        {
            options.AddUserProfilePreference("download.default_directory", downloads);
        }

        var service = ChromeDriverService.CreateDefaultService(Path.GetDirectoryName(Find("chromedriver"))!);
        service.HideCommandPromptWindow = true;
        service.SuppressInitialDiagnosticInformation = true;
        Driver = new ChromeDriver(service, options, TimeSpan.FromSeconds(Patience));
        Driver.Manage().Timeouts().PageLoad = TimeSpan.FromSeconds(Patience);
        Driver.Manage().Timeouts().AsynchronousJavaScript = TimeSpan.FromSeconds(Patience);
        Size(1280, 800);
        if (!paints)
        {
            Driver.ExecuteCdpCommand(
                "Page.addScriptToEvaluateOnNewDocument",
                new Dictionary<string, object?>
                {
                    ["source"] = """
                    for (const name of ['drawArrays', 'drawElements', 'drawArraysInstanced', 'drawElementsInstanced', 'drawRangeElements'])
                      WebGL2RenderingContext.prototype[name] = () => {};
                    """,
                }
            );
        }
    }

    public string Address { get; }

    public ChromeDriver Driver { get; }

    /// <summary>Sets the size of the page itself, whatever the window adds.</summary>
    public void Size(int width, int height) =>
        Driver.ExecuteCdpCommand(
            "Emulation.setDeviceMetricsOverride",
            new Dictionary<string, object?>
            {
                ["width"] = width,
                ["height"] = height,
                ["deviceScaleFactor"] = _scale,
                ["mobile"] = false,
            }
        );

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
        Driver.Quit();
        Driver.Dispose();
        try
        {
            Directory.Delete(_profile, recursive: true);
        }
        catch (IOException)
        {
            // The browser may still let go of a file; the folder is temporary anyway.
        }
    }

    private static string Find(string name) =>
        Environment.GetEnvironmentVariable("PATH")!.Split(':').Select(p => Path.Combine(p, name)).FirstOrDefault(File.Exists)
        ?? throw new FileNotFoundException($"{name} is not installed");
}

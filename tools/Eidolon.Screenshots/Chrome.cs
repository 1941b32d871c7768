using OpenQA.Selenium;
using OpenQA.Selenium.Chrome;

namespace Eidolon.Screenshots;

/// <summary>A headless Chromium with software WebGL and a profile of its own, and the driver that speaks to it.</summary>
public sealed class Chrome : IDisposable
{
    /// <summary>How long anything may take, seconds: a machine without a graphics card and with other work on it is slow, not broken.</summary>
    internal const double Patience = 300;

    private readonly string _profile = Directory.CreateTempSubdirectory("eidolon-browser").FullName;

    private readonly int _process;

    public Chrome()
    {
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
        var service = ChromeDriverService.CreateDefaultService(Path.GetDirectoryName(Find("chromedriver"))!);
        service.HideCommandPromptWindow = true;
        service.SuppressInitialDiagnosticInformation = true;
        Driver = new ChromeDriver(service, options, TimeSpan.FromSeconds(Patience));
        _process = service.ProcessId;
        Driver.Manage().Timeouts().PageLoad = TimeSpan.FromSeconds(Patience);
        Driver.Manage().Timeouts().AsynchronousJavaScript = TimeSpan.FromSeconds(Patience);
        First = Driver.CurrentWindowHandle;
    }

    public ChromeDriver Driver { get; }

    /// <summary>The tab it was started with, which stays open and empty while others come and go.</summary>
    public string First { get; }

    public void Dispose()
    {
        Driver.Quit();
        Driver.Dispose();
        Clear();
    }

    /// <summary>Ends it without a word, for when the process that started it ends: nothing is waited for then.</summary>
    public void Kill()
    {
        using var driver = System.Diagnostics.Process.GetProcessById(_process);
        driver.Kill(entireProcessTree: true);
        driver.WaitForExit(2000);
        Clear();
    }

    private void Clear()
    {
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

using Eidolon.Screenshots;
using OpenQA.Selenium;

namespace Eidolon.Browser.Tests;

/// <summary>One browser for all tests, each in a tab of its own: starting one, and compiling what pages draw with, takes seconds.</summary>
internal static class OneBrowser
{
    private static Chrome? _running;

    /// <summary>Started when it is asked for first, and again when it is gone.</summary>
    public static Chrome Running
    {
        get
        {
            if (_running is not null && !Answers(_running))
            {
                _running.Dispose();
                _running = null;
            }

            if (_running is null)
            {
                _running = new Chrome();
                AppDomain.CurrentDomain.ProcessExit += (_, _) => _running?.Kill();
            }

            return _running;
        }
    }

    private static bool Answers(Chrome chrome)
    {
        try
        {
            return chrome.Driver.WindowHandles.Count > 0;
        }
        catch (WebDriverException)
        {
            return false;
        }
    }
}

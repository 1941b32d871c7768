using Eidolon.Testing;

namespace Eidolon.Browser.Tests.Journeys;

/// <summary>A piece of work through the real interface, whose clicks, choices and typed values are counted. Looking, waiting and scrubbing are free.</summary>
public abstract class Journey(DemoStudio studio) : TakePage(studio)
{
    /// <summary>How many actions the journey has taken so far.</summary>
    protected int Actions { get; private set; }

    /// <summary>A real click on what a person sees.</summary>
    protected void Press(string css)
    {
        Actions++;
        var element = Browser.One(css);
        Browser.Js("arguments[0].scrollIntoView({ block: 'center' })", element);
        element.Click();
    }

    /// <summary>One choice of a list.</summary>
    protected void Choose(string css, string text)
    {
        Actions++;
        Browser.Js(
            "const s = document.querySelector(arguments[0]), o = [...s.options].find(o => o.text.trim() === arguments[1] || o.value === arguments[1]); s.value = o.value; s.dispatchEvent(new Event('change', { bubbles: true }))",
            css,
            text
        );
    }

    /// <summary>Presses something that changes the Ledger and waits until the page shows what came of it.</summary>
    protected void PressAndWait(string css, string what) => Change(() => Press(css), what);

    /// <summary>To another Step by the head of the page.</summary>
    protected void GoTo(string step)
    {
        Press($".e-steps a[href$='/{step}']");
        Browser.Until($"return location.pathname.endsWith('/{step}') && document.readyState === 'complete'", step);
        Browser.Ready();
    }
}

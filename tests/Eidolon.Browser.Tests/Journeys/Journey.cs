using Eidolon.Testing;

namespace Eidolon.Browser.Tests.Journeys;

/// <summary>A piece of work through the real interface, whose clicks, choices and typed values are counted. Looking, waiting and scrubbing are free.</summary>
public abstract class Journey(DemoStudio studio, bool paints = true) : TakePage(studio, paints: paints)
{
    /// <summary>How many actions the journey has taken so far.</summary>
    protected int Actions { get; private set; }

    /// <summary>A click on what a person sees and can reach: not hidden, not switched off, nothing lying over it.</summary>
    protected void Press(string css)
    {
        Actions++;
        var element = Browser.One(css);
        // The driver's own click waits for a picture, which takes its time where pictures are drawn in software beside a live stage.
        var told = Browser.Js(
            """
            const e = arguments[0]; e.scrollIntoView({ block: 'center', inline: 'center' });
            const r = e.getBoundingClientRect(), top = document.elementFromPoint(r.left + r.width / 2, r.top + r.height / 2);
            if (e.disabled) return 'it is switched off';
            if (r.width < 4 || r.height < 4) return 'it is not seen';
            if (!top || !(e.contains(top) || top.contains(e) || top.closest('label')?.control === e))
                return 'another lies over it: ' + top?.outerHTML.slice(0, 200);
            e.click(); return null;
            """,
            element
        );
        Assert.True(told is null, $"{css}: {told}");
    }

    /// <summary>
    /// The performers before the ring take their places once more, and have done so when this is over: a stand-in goes round and round, and must not
    /// begin again in the middle of a recording.
    /// </summary>
    protected void InPlace()
    {
        var refused = Browser.Driver.ExecuteAsyncScript(
            """
            const done = arguments[arguments.length - 1];
            import('/js/live/connection.js')
              .then((m) => m.command('Perform', document.getElementById('scene').value,
                document.querySelector('[data-performer][aria-pressed=true]')?.dataset.performer ?? ''))
              .then(done, (e) => done(String(e)));
            """
        );
        Assert.Equal(string.Empty, refused);
    }

    /// <summary>An action of the journey's own: a drag.</summary>
    protected void Did() => Actions++;

    /// <summary>A key that does something.</summary>
    protected void KeyPress(string key)
    {
        Actions++;
        Key(key);
    }

    /// <summary>One typed value.</summary>
    protected void Type(string css, string value)
    {
        Actions++;
        Browser.Js(
            "const i = arguments[0]; i.value = arguments[1]; for (const e of ['input', 'change']) i.dispatchEvent(new Event(e, { bubbles: true }))",
            Browser.One(css),
            value
        );
    }

    /// <summary>One choice of a list.</summary>
    protected void Choose(string css, string text)
    {
        Actions++;
        Browser.Js(
            """
            const s = document.querySelector(arguments[0]), o = [...s.options].find(o => o.text.trim() === arguments[1]
            || o.value === arguments[1]); s.value = o.value; s.dispatchEvent(new Event('change', { bubbles: true }))
            """,
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

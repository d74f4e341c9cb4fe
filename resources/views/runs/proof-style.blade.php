<style>
    body {
        font-family: "IBM Plex Sans", "DejaVu Sans", sans-serif;
        font-size: 10pt;
        color: #1e2a32;
        margin: 2em auto;
        max-width: 62em;
        line-height: 1.35;
    }

    h1 {
        font-size: 15pt;
        margin: 0 0 .2em;
    }

    h2 {
        font-size: 11pt;
        margin: 1.3em 0 .3em;
        border-bottom: 1px solid #ded7ca;
    }

    .order {
        font-size: 12pt;
    }

    .bad {
        color: #b4470f;
    }

    .good {
        border-bottom: 3px double #6b2d5c;
    }

    .mono,
    td.mono {
        font-family: "IBM Plex Mono", "DejaVu Sans Mono", monospace;
        font-size: 8.5pt;
        overflow-wrap: anywhere;
        word-wrap: break-word;
    }

    table {
        border-collapse: collapse;
        width: 100%;
    }

    td,
    th {
        text-align: left;
        vertical-align: top;
        padding: .22em .7em .22em 0;
        border-bottom: 1px solid #ded7ca;
    }

    th {
        font-weight: 600;
        width: 11em;
    }

    thead th {
        width: auto;
    }
</style>

<?php

declare(strict_types=1);

use Kaiseki\Core\Mail\Mbox;
use Kaiseki\Core\Mail\MboxForm;
use Kaiseki\Core\Mail\MboxMessage;
use Kaiseki\Core\Mail\MboxWriter;
use Kaiseki\Core\Mail\Message;
use Tests\Support\MailSamples;
use Tests\Support\Scratch;

/*
 * Reference: RFC 4155 for the line between messages, Python's standard library (mailbox.mbox) as a reader and as a writer of
 * the form mboxo.
 */

const MESSAGES = [
    "From: a@x.example\nSubject: one\n\nFrom the start\n>From quoted\n>>From twice\nx\n\n".
        "From b@x.example Mon Jun  1 10:00:00 2026\nlooks real\n",
    "From: a@x.example\nSubject: two\n\n\n\n",
    "Subject: three\n\nx\n",
    "From: b@x.example\nSubject: four\nContent-Length: 5\n\nlonger than it says\nFrom me to you\n",
];

/** @return resource */
function mboxOf(string $bytes)
{
    $file = fopen('php://temp', 'w+b');
    fwrite($file, $bytes);

    return $file;
}

/** @return list<string> */
function readOut(string $bytes): array
{
    $mbox = Mbox::of(mboxOf($bytes));
    $all = [];
    foreach ($mbox->messages() as $message) {
        $all[] = $mbox->content($message);
    }

    return $all;
}

it('gives back what it wrote, whatever lines begin with', function (): void {
    $bytes = implode('', array_map(fn (string $one): string => MboxWriter::entry($one, 1_790_000_000), MESSAGES));
    expect(readOut($bytes))->toBe(MESSAGES)
        ->and(Mbox::of(mboxOf($bytes))->form)->toBe(MboxForm::Each)
        ->and(Mbox::begins($bytes))->toBeTrue()
        ->and(explode("\n", $bytes)[0])->toBe('From a@x.example Mon Sep 21 14:13:20 2026');
    $when = [...Mbox::of(mboxOf($bytes))->messages()];
    expect($when[0])->toEqual(new MboxMessage(42, $when[0]->length, 1_790_000_000));
});

it('writes what Python reads as the same messages', function (int $seed): void {
    $samples = new MailSamples($seed);
    $messages = array_map(fn (): string => $samples->message(), range(1, 60));
    $scratch = new Scratch;
    $file = $scratch->file('box', implode('', array_map(fn (string $one): string => MboxWriter::entry($one, 1_790_000_000), $messages)));
    $python = MailSamples::python(<<<'PY'
        import sys, json, mailbox, re, hashlib
        box = mailbox.mbox(json.load(sys.stdin), create=False)
        out = []
        for key in box.keys():
            raw = re.sub(rb'(?m)^>(>*From )', rb'\1', box.get_bytes(key))
            out.append(hashlib.blake2b(raw, digest_size=32).hexdigest())
        json.dump(out, sys.stdout)
        PY, $file);
    $scratch->remove();
    $ended = fn (string $one): string => str_ends_with($one, "\n") ? $one : "$one\r\n";
    expect($python)->toBe(array_map(fn (string $one): string => bin2hex(Message::identityOf($ended($one))), $messages));
})->with([11, 12]);

it('reads what Python writes', function (): void {
    $scratch = new Scratch;
    $file = $scratch->path.'/box';
    $lines = "From: a@x.example\nSubject: s\n\nFrom here\nto there\n";
    MailSamples::python(<<<'PY'
        import sys, json, mailbox
        path, messages = json.load(sys.stdin)
        box = mailbox.mbox(path)
        for one in messages:
            box.add(one.encode())
        box.flush()
        print('[]')
        PY, [$file, [$lines, "Subject: two\n\nx\n"]]);
    $bytes = (string) file_get_contents($file);
    $scratch->remove();
    expect(readOut($bytes))->toBe([$lines, "Subject: two\n\nx\n"])->and(Mbox::of(mboxOf($bytes))->form)->toBe(MboxForm::Once);
});

it('tells the forms apart by what they hold', function (string $body, bool $counts, MboxForm $form, string $as): void {
    $head = "From: a@x.example\nSubject: s\n".($counts ? 'Content-Length: '.strlen($body)."\n" : '')."\n";
    $box = "From a@x.example Mon Jun  1 10:00:00 2026\n$head$body\nFrom b@x.example Mon Jun  1 11:00:00 2026 +0200\n".
        "Subject: next\n".($counts ? "Content-Length: 2\n" : '')."\ny\n\n";
    $mbox = Mbox::of(mboxOf($box));
    $messages = [...$mbox->messages()];
    expect($mbox->form)->toBe($form)
        ->and(count($messages))->toBe(2)
        ->and($mbox->content($messages[0]))->toBe($head.$as)
        ->and($messages[1]->receivedAt)->toBe(gmmktime(9, 0, 0, 6, 1, 2026));
})->with([
    'nothing to quote' => ["plain\n", false, MboxForm::Each, "plain\n"],
    'quoted once' => [">From here\n", false, MboxForm::Once, "From here\n"],
    'quoted each time' => [">From here\n>>From there\n", false, MboxForm::Each, "From here\n>From there\n"],
    'counted and quoted' => [">From here\n", true, MboxForm::Counted, "From here\n"],
    'counted only' => ["x\n\nFrom c@x.example Mon Jun  1 10:30:00 2026\n\ny\n", true, MboxForm::OnlyCounted,
        "x\n\nFrom c@x.example Mon Jun  1 10:30:00 2026\n\ny\n"],
]);

it('goes by the lines between messages where a length lies', function (): void {
    $box = "From a@x.example Mon Jun  1 10:00:00 2026\nSubject: s\nContent-Length: 3\n\nlonger than three\n\n".
        "From b@x.example Mon Jun  1 11:00:00 2026\nSubject: t\nContent-Length: 2\n\ny\n\n";
    expect(readOut($box))->toBe(["Subject: s\nContent-Length: 3\n\nlonger than three\n", "Subject: t\nContent-Length: 2\n\ny\n"]);
});

it('finds none in what is none', function (string $bytes): void {
    expect(Mbox::begins($bytes))->toBeFalse()->and(readOut($bytes))->toBe([]);
})->with(['', "Dear all,\n", "From: a@x.example\n\nx\n", "From\n", str_repeat("\0", 5_000)]);

<?php

declare(strict_types=1);

use Kaiseki\Core\Mail\Attachment;
use Kaiseki\Core\Mail\MailAddress;
use Kaiseki\Core\Mail\Message;
use Tests\Support\MailSamples;

/* Reference: Python's standard library, package "email" with its policy "default", and RFC 5322, 2045 to 2047, 2231, 3676. */

const READ_BY_PYTHON = <<<'PY'
import sys, json, base64, email, email.policy, email.utils
out = []
for raw in json.load(sys.stdin):
    m = email.message_from_bytes(base64.b64decode(raw), policy=email.policy.default)
    body = m.get_body(('plain', 'html'))
    out.append({
        'subject': str(m['subject'] or '').strip(),
        'from': [[a.display_name, a.addr_spec] for a in m['from'].addresses],
        'to': [[a.display_name, a.addr_spec] for a in m['to'].addresses],
        'id': m['message-id'].strip('<> '),
        'date': int(m['date'].datetime.timestamp()),
        'text': body.get_content() if body else '',
        'attachments': [[a.get_filename(), len(a.get_content())] for a in m.iter_attachments()],
    })
json.dump(out, sys.stdout)
PY;

it('reads what Python reads', function (int $seed): void {
    $samples = new MailSamples($seed);
    $messages = array_map(fn (): string => $samples->message(), range(1, 150));
    $python = MailSamples::python(READ_BY_PYTHON, array_map(base64_encode(...), $messages));
    $pair = fn (MailAddress $of): array => [$of->name, $of->address];
    foreach ($messages as $at => $bytes) {
        $own = Message::of($bytes);
        expect([
            'subject' => $own->subject(),
            'from' => array_map($pair, $own->from()),
            'to' => array_map($pair, $own->to()),
            'id' => $own->messageId(),
            'date' => $own->sentAt(),
            'text' => trim($own->text()),
            'attachments' => array_map(fn (Attachment $of): array => [$of->name, strlen($of->part->decoded($bytes))], $own->attachments()),
        ])->toBe(array_replace($python[$at], ['text' => trim(str_replace("\r\n", "\n", $python[$at]['text']))]), "message $at")
            ->and($own->wrong)->toBe([]);
    }
})->with([1, 2, 3]);

it('is the same message with either ending of lines, and another with another byte', function (): void {
    $message = (new MailSamples(4))->message();
    expect(Message::identityOf($message))->toBe(Message::identityOf(str_replace("\r\n", "\n", $message)))
        ->and(Message::identityOf($message))->not->toBe(Message::identityOf("$message "));
});

it('reads headers as RFC 2047 and RFC 2231 have them in their examples', function (string $header, string $expected): void {
    expect(Message::of("Subject: $header\r\n\r\n")->subject())->toBe($expected);
})->with([
    // RFC 2047, section 8, with space before and behind taken away
    ['=?ISO-8859-1?Q?a?=', 'a'],
    ['=?ISO-8859-1?Q?a?= b', 'a b'],
    ['=?ISO-8859-1?Q?a?= =?ISO-8859-1?Q?b?=', 'ab'],
    ["=?ISO-8859-1?Q?a?=\r\n  =?ISO-8859-1?Q?b?=", 'ab'],
    ['=?ISO-8859-1?Q?a_b?=', 'a b'],
    ['=?ISO-8859-1?Q?a?= =?ISO-8859-2?Q?_b?=', 'a b'],
]);

it('joins a name in pieces as RFC 2231 has it, section 4.1', function (): void {
    $message = Message::of(
        "Content-Type: multipart/mixed; boundary=b\r\n\r\n--b\r\nContent-Type: application/x-stuff;\r\n".
            " title*0*=us-ascii'en'This%20is%20even%20more%20;\r\n title*1*=%2A%2A%2Afun%2A%2A%2A%20;\r\n".
            " title*2=\"isn't it!\"\r\n\r\nx\r\n--b--\r\n",
    );
    expect($message->root->parts[0]->type->get('title'))->toBe("This is even more ***fun*** isn't it!");
});

it('gives flowed text back in its paragraphs', function (): void {
    $message = Message::of("Content-Type: text/plain; format=flowed\r\n\r\nOne \r\ntwo \r\nthree.\r\n From the left\r\n-- \r\nAda\r\n");
    expect($message->text())->toBe("One two three.\nFrom the left\n-- \nAda");
});

it('takes its text out of HTML where it has no other, and without what does not show', function (): void {
    $html = '<html><head><title>no</title><style>p{}</style></head><body><p>Fares &amp; times</p><script>alert(1)</script>'.
        '<td>a</td><!-- no -->b';
    $message = Message::of("Content-Type: text/html; charset=utf-8\r\n\r\n$html");
    expect($message->text())->toBe("Fares & times\n\tab")->and($message->html())->toBe($html);
});

it('counts a message that was attached once, and looks for words in it too', function (): void {
    $inner = "From: a@x.example\r\nSubject: inner\r\nContent-Type: multipart/mixed; boundary=i\r\n\r\n--i\r\n\r\nkeelson\r\n--i\r\n".
        "Content-Type: image/png; name=x.png\r\n\r\nx\r\n--i--\r\n";
    $message = Message::of(
        "Content-Type: multipart/mixed; boundary=o\r\n\r\n--o\r\n\r\nouter\r\n--o\r\n".
            "Content-Type: message/rfc822\r\n\r\n$inner\r\n--o--\r\n",
    );
    expect(array_map(fn (Attachment $of): string => $of->name, $message->attachments()))->toBe(['message.eml'])
        ->and($message->text())->toBe('outer')
        ->and($message->words())->toContain('keelson');
});

it('names what was hidden in the name of an attachment', function (): void {
    $message = Message::of(
        "Content-Type: multipart/mixed; boundary=b\r\n\r\n--b\r\nContent-Disposition: attachment;\r\n".
            " filename*=utf-8''invoice%E2%80%AEfdp.exe%00%0A\r\n\r\nx\r\n--b--\r\n",
    );
    expect($message->attachments()[0]->name)->toBe('invoicefdp.exe');
});

it('ends with whatever it is given, within bounds', function (Closure $make, string $wrong): void {
    $before = memory_get_usage();
    $bytes = $make();
    $message = Message::of($bytes);
    $words = $message->words();
    expect(implode('; ', $message->wrong))->toContain($wrong)
        ->and(mb_check_encoding($words.$message->subject(), 'UTF-8'))->toBeTrue()
        ->and(count($message->attachments()))->toBeLessThanOrEqual(1_000)
        ->and(count($message->to()))->toBeLessThanOrEqual(MailAddress::MOST)
        ->and(memory_get_usage() - $before)->toBeLessThan(200 << 20);
})->with([
    'nothing' => [fn (): string => '', ''],
    'no headers' => [fn (): string => "this is no message\nat all\n", 'no headers'],
    'NUL' => [fn (): string => "Subject: a\0b\r\n\r\n\0\0", ''],
    'headers of a megabyte' => [fn (): string => 'X-Bomb: '.str_repeat('a', 1 << 20)."\r\n\r\nb", 'longer than 256 KiB'],
    'a subject of encoded words' => [fn (): string => 'Subject: '.str_repeat("=?utf-8?B?w6k=?=\r\n ", 60_000)."\r\n\r\nb", '256 KiB'],
    'recipients' => [fn (): string => 'To: '.str_repeat("\"P, Q\" <p@x>,\r\n ", 100_000)."z@x\r\n\r\nb", '256 KiB'],
    'parts' => [
        fn (): string => "Content-Type: multipart/mixed; boundary=b\r\n\r\n".str_repeat("--b\r\n\r\nx\r\n", 10_000)."--b--\r\n",
        'more parts',
    ],
    'parts within parts' => [
        fn (): string => implode(
            '',
            array_map(fn (int $i): string => "Content-Type: multipart/mixed; boundary=b$i\r\n\r\n--b$i\r\n", range(1, 2_000)),
        ),
        'more parts, or deeper ones',
    ],
    'messages within messages' => [
        fn (): string => str_repeat("Subject: n\r\nContent-Type: message/rfc822\r\n\r\n", 2_000).'end',
        'more parts, or deeper ones',
    ],
    'base64 of 30 MB' => [
        fn (): string => "Content-Transfer-Encoding: base64\r\n\r\n".str_repeat(str_repeat('QUFB', 19)."\r\n", 400_000),
        '',
    ],
    'an open comment' => [fn (): string => 'From: '.str_repeat('(', 50_000)."a@x\r\n\r\nb", ''],
    'an open quotation' => [fn (): string => 'To: "'.str_repeat('a\\', 100_000)."\r\n\r\nb", ''],
    'parameters' => [fn (): string => 'Content-Type: text/plain;'.str_repeat(' a*0*=x;', 50_000)."\r\n\r\nb", '256 KiB'],
    'a boundary of dashes' => [
        fn (): string => "Content-Type: multipart/mixed; boundary=-\r\n\r\n".str_repeat('-', 3_000_000),
        '',
    ],
    'open scripts' => [fn (): string => "Content-Type: text/html\r\n\r\n".str_repeat('<script><style>', 60_000), ''],
    'open comments' => [fn (): string => "Content-Type: text/html\r\n\r\n".str_repeat('<!--<p', 150_000), ''],
    'a charset without end' => [fn (): string => 'Content-Type: text/plain; charset='.str_repeat('z', 100_000)."\r\n\r\nz", ''],
    'one line of 20 MB' => [fn (): string => "Subject: s\r\n\r\n".str_repeat('x', 20_000_000), ''],
    'carriage returns only' => [fn (): string => "Subject: s\rFrom: a@x\r\rbody", ''],
    'a boundary that is not there' => [fn (): string => "Content-Type: multipart/mixed\r\n\r\n--b\r\n\r\nx", 'not what parts them'],
]);

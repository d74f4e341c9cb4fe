<?php

declare(strict_types=1);

use App\Kinds\Items\Page\LetterPage;
use Kaiseki\Core\Mail\Message;

/** @return string the body of the page that a message becomes */
function letterOf(string $html, string $more = ''): ?string
{
    $part = "Content-Type: text/html; charset=utf-8\r\n\r\n$html";
    $message = Message::of($more === ''
        ? $part
        : "Content-Type: multipart/related; boundary=b\r\n\r\n--b\r\n$part\r\n--b\r\n$more\r\n--b--\r\n");
    $page = LetterPage::of($message)?->html;

    return $page === null ? null : (string) preg_replace('~^.*<body>|</body>.*$~s', '', $page);
}

/** A picture of one point. */
const ONE_POINT = 'iVBORw0KGgoAAAANSUhEUgAAAAEAAAABCAYAAAAfFcSJAAAADUlEQVR42mNk+M9QDwADhgGAWjR9awAAAABJRU5ErkJggg==';

it('keeps what can be read, and nothing that acts', function (string $html, string $clean): void {
    expect(letterOf($html))->toBe($clean);
})->with([
    ['<p>Fares &amp; <b>times</b></p>', '<p>Fares &amp; <b>times</b></p>'],
    ['<a href="https://x.example" id="a" onclick="x()">here</a>', '<a>here</a>'],
    ['<p style="position:fixed;inset:0" class="x" name="y">t</p>', '<p>t</p>'],
    ['<script>x()</script><style>p{}</style><iframe src=x></iframe>t', 't'],
    ['<img src="https://x.example/p.png" alt="a picture">', '<img alt="a picture" />'],
    ['<img src="data:text/html,x"><img src="javascript:x()">', '<img /><img />'],
    ['<form action=x><input name=q><button>go</button></form>', ''],
    ['<svg onload=x()><circle r=1 /></svg><math><mi>x</mi></math>', ''],
    ["<p>bytes \xff that are none</p>", '<p>bytes ÿ that are none</p>'],
]);

it('shows a picture that came with it, drawn anew, and none that is not there', function (): void {
    $part = "Content-Type: image/png\r\nContent-ID: <one@sorrel>\r\nContent-Transfer-Encoding: base64\r\n\r\n".ONE_POINT;
    $body = (string) letterOf('<img src="cid:one@sorrel"><img src="cid:other@sorrel">', $part);
    preg_match('~^<img src="data:image/png;base64,([^"]+)" /><img />~', $body, $m);
    expect($m)->not->toBe([])
        ->and(getimagesizefromstring((string) base64_decode(html_entity_decode($m[1]))))->toMatchArray([0 => 1, 1 => 1])
        ->and((string) letterOf('<img src="cid:one@sorrel">', str_replace(ONE_POINT, base64_encode('<svg/>'), $part)))
        ->toStartWith('<img />');
});

it('counts what would have been fetched from elsewhere', function (): void {
    $message = Message::of("Content-Type: text/html\r\n\r\n<img src=\"http://a.example/1\"><img src='//b.example/2'><img src=\"cid:x\">");
    expect(LetterPage::of($message)?->remote)->toBe(2);
});

it('leaves to its text what cannot be cleaned in time', function (string $html): void {
    expect(letterOf($html))->toBeNull();
})->with([
    'nothing' => [' '],
    'a megabyte' => ['<p>'.str_repeat('x', 1_000_001)],
    'nested' => [str_repeat('<div>', 10_000).'x'.str_repeat('</div>', 10_000)],
    'never ended' => [str_repeat('<b><i>', 2_000)],
]);

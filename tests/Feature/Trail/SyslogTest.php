<?php

declare(strict_types=1);

use App\Jobs\SealTrail;
use App\Jobs\SendTrail;
use App\Models\TrailEntry;
use App\Trail\CannotSend;
use App\Trail\SyslogSender;
use App\Trail\TrailSeals;
use Illuminate\Support\Facades\DB;

// The trail at a syslog server. Form of a message: RFC 5424, 6 (and its examples, 6.5); over TCP: RFC 6587, 3.4.1.

beforeEach(function (): void {
    foreach (['Rights were given.', "Two lines\nand a \"quote\", naïve", 'A wrong password was tried.'] as $i => $what) {
        TrailEntry::add($what, null, null, result: $i === 2 ? 'refused' : 'done');
    }
});

/** @return array{string, string, string, string} priority, time, what comes before the message, and the message */
function parsed(string $message): array
{
    // HEADER = PRI VERSION SP TIMESTAMP SP HOSTNAME SP APP-NAME SP PROCID SP MSGID; then SP STRUCTURED-DATA, and the MSG with its BOM.
    $ok = preg_match(
        '/^<(\d{1,3})>1 (\d{4}-\d\d-\d\dT\d\d:\d\d:\d\d\.\d{1,6}Z) ([!-~]{1,255} kaiseki \d+ trail) - \xEF\xBB\xBF(.*)$/Ds',
        $message,
        $m,
    );
    expect($ok)->toBe(1, $message);

    return [$m[1], $m[2], $m[3], $m[4]];
}

it('sends what is sealed over UDP, each once, as it was sealed', function (): void {
    $server = stream_socket_server('udp://127.0.0.1:0', $error, $why, STREAM_SERVER_BIND);
    stream_set_timeout($server, 10);
    config(['logging.trail' => 'udp://'.stream_socket_get_name($server, false)]);
    (new SendTrail)->handle();
    (new SealTrail)->handle();
    (new SendTrail)->handle();
    (new SendTrail)->handle();
    $got = array_map(fn (): array => parsed((string) fread($server, 65536)), range(1, 3));
    stream_set_blocking($server, false);
    expect((string) fread($server, 65536))
        ->toBe('') // nothing twice
        ->and(array_column($got, 0))
        ->toBe(['110', '110', '108']);
    $entries = array_map(fn (array $one): array => json_decode($one[3], true, 512, JSON_THROW_ON_ERROR), $got);
    expect(array_column($entries, 'number'))
        ->toBe([1, 2, 3])
        ->and(array_column($entries, 'seal'))
        ->toBe(DB::table('trail_seals')->orderBy('number')->pluck('seal')->all())
        ->and($entries[1]['entry']['what'])
        ->toBe(TrailEntry::query()->orderBy('id')->skip(1)->value('what'));
    // Later entries go on from there.
    TrailEntry::add('One more.', null, null);
    TrailSeals::bringUpToDate();
    expect(SyslogSender::sendNew((string) config('logging.trail')))->toBe(1);
});

it('counts the octets over TCP', function (): void {
    $server = stream_socket_server('tcp://127.0.0.1:0');
    TrailSeals::bringUpToDate();
    expect(SyslogSender::sendNew('tcp://'.stream_socket_get_name($server, false)))->toBe(3);
    $stream = (string) stream_get_contents(stream_socket_accept($server));
    for ($messages = []; $stream !== ''; $stream = substr($stream, (int) $length + strlen($length) + 1)) {
        [$length] = explode(' ', $stream, 2);
        expect($length)->toMatch('/^[1-9]\d*$/');
        $messages[] = parsed(substr($stream, strlen($length) + 1, (int) $length));
    }
    expect($messages)->toHaveCount(3);
});

it('waits while the server does not answer, and says why', function (): void {
    $server = stream_socket_server('tcp://127.0.0.1:0');
    $address = 'tcp://'.stream_socket_get_name($server, false);
    fclose($server);
    TrailSeals::bringUpToDate();
    expect(fn () => SyslogSender::sendNew($address))
        ->toThrow(CannotSend::class, 'does not take the trail')
        ->and(DB::table('trail_sent')->count())
        ->toBe(0)
        ->and(fn () => SyslogSender::sendNew('http://log.example'))
        ->toThrow(CannotSend::class, 'udp://HOST');
});

it('knows the usual ports', function (string $url, ?string $address): void {
    expect(SyslogSender::address($url)[1] ?? null)->toBe($address);
})->with([
    ['udp://log.example', 'udp://log.example:514'], // RFC 5426, 3.3
    ['tcp://log.example', 'tcp://log.example:601'], // IANA: syslog-conn
    ['tls://log.example', 'tls://log.example:6514'], // RFC 5425, 4.1
    ['udp://log.example:1514', 'udp://log.example:1514'],
    ['log.example', null],
    ['file:///etc/passwd', null],
]);

<?php

declare(strict_types=1);

use Kaiseki\Core\Mail\Imap\ImapAddress;
use Kaiseki\Core\Mail\Imap\ImapFailure;
use Kaiseki\Core\Mail\Imap\ImapMailbox;
use Kaiseki\Core\Mail\Message;
use Kaiseki\StandIns\MailServer;
use Tests\Support\MailSamples;
use Tests\Support\MailServerAtWork;

/* Reference: a real mail server (Dovecot, from Debian), and what its own tool doveadm(1) says of it. */

beforeAll(function (): void {
    MailHere::$server = new MailServerAtWork(['ada@sorrel.example' => null, 'ben@sorrel.example' => 1]);
});

afterAll(fn () => MailHere::$server?->remove());

/** One server for all tests of this file. */
final class MailHere
{
    public static ?MailServerAtWork $server = null;

    public static function open(string $mailbox = 'ada@sorrel.example'): ImapMailbox
    {
        return self::$server->open($mailbox);
    }
}

it('lays messages into folders as they were, with dates and flags', function (): void {
    $ada = MailHere::open();
    $samples = new MailSamples(21);
    $ada->create('Projekte/Übergabe "1"');
    $laid = [];
    foreach (range(0, 39) as $number) {
        $message = $samples->message();
        $flags = $number % 2 === 0 ? ['\Seen', '\Flagged'] : ['$Work'];
        $uid = $ada->append('Projekte/Übergabe "1"', $message, $flags, 1_700_000_000 + $number);
        $laid[(int) $uid] = $message;
    }
    expect($ada->select('Projekte/Übergabe "1"'))->toBeGreaterThan(0)->and($ada->nextUid())->toBe(41);
    $there = $ada->messages();
    expect(array_map(fn ($one): int => $one->uid, $there))->toBe(array_keys($laid))
        ->and($there[3]->receivedAt)->toBe(1_700_000_003)
        ->and($there[2]->flags)->toEqualCanonicalizing(['\Seen', '\Flagged'])
        ->and($there[3]->flags)->toBe(['$Work'])
        ->and($there[5]->messageId)->toBe(Message::of($laid[6])->messageId());
    $read = [];
    $ada->read(array_keys($laid), function (int $uid, string $bytes) use (&$read): void {
        $read[$uid] = Message::identityOf($bytes);
    });
    expect($read)->toBe(array_map(Message::identityOf(...), $laid));
    $told = MailHere::$server->doveadm('fetch', '-u', 'ada@sorrel.example', 'uid', 'mailbox', 'Projekte/Übergabe "1"');
    expect(count(preg_grep('/^uid: /', $told)))->toBe(40)
        ->and(array_map(fn ($one): int => $one->uid, $ada->messages(39)))->toBe([39, 40])
        ->and($ada->messages(41))->toBe([]);
    $ada->remove(range(1, 39));
    expect(array_map(fn ($one): int => $one->uid, $ada->messages()))->toBe([40]);
    $ada->remove([40]);
    $ada->delete('Projekte/Übergabe "1"');
    expect(array_keys($ada->folders()))->not->toContain('Projekte/Übergabe "1"');
    $ada->close();
});

it('knows its folders, what they are for, and how much room there is', function (): void {
    $ada = MailHere::open();
    $folders = $ada->folders();
    expect($folders['Trash']->isTrash())->toBeTrue()
        ->and($folders['INBOX']->isTrash())->toBeFalse()
        ->and($folders['INBOX']->isSelectable())->toBeTrue()
        ->and($ada->isAbleTo('UIDPLUS'))->toBeTrue();
    $ada->close();
    $ben = MailHere::open('ben@sorrel.example');
    expect($ben->storage()[1])->toBe(1_048_576);
    $full = null;
    try {
        $ben->append('INBOX', "Subject: big\r\n\r\n".str_repeat("x\r\n", 500_000), [], 1_700_000_000);
    } catch (ImapFailure $full) {
    }
    expect($full?->reason)->toBe('OVERQUOTA')->and($full?->isLost)->toBeFalse();
    // The line is as good as before.
    expect($ben->append('INBOX', "Subject: small\r\n\r\nx\r\n", [], 1_700_000_000))->toBeGreaterThan(0);
    $ben->close();
});

it('never has a message taken for orders', function (): void {
    $ada = MailHere::open();
    expect(fn () => $ada->append('INBOX', "x\r\n", ['\Seen) {3}'], 0))->toThrow(InvalidArgumentException::class, 'is no flag');
    $ada->append('INBOX', "Subject: t\r\n\r\nk9 LOGOUT\r\n)\r\nk10 DELETE INBOX\r\n", [], 1_700_000_000);
    expect(fn () => $ada->select("INBOX\"\r\nk5 DELETE Trash"))->toThrow(InvalidArgumentException::class, 'no control characters')
        ->and(fn () => $ada->select('nowhere'))->toThrow(ImapFailure::class, 'refused to open the folder nowhere')
        ->and(array_keys($ada->folders()))->toContain('Trash');
    $ada->close();
});

it('says what is wrong', function (): void {
    $address = MailHere::$server->address();
    $secret = MailHere::$server->server->masterPassword();
    $open = fn (string $secret, string $as): Closure => fn () => ImapMailbox::open($address, MailServer::MASTER, $secret, $as);
    expect($open('wrong', 'ada@sorrel.example'))->toThrow(ImapFailure::class, 'refused the sign-in')
        ->and($open($secret, 'nobody@sorrel.example'))->toThrow(ImapFailure::class, 'refused the sign-in')
        ->and(fn () => ImapMailbox::open(ImapAddress::parse('imap://127.0.0.1:1'), 'a', 'b'))
        ->toThrow(ImapFailure::class, 'does not answer')
        ->and(fn () => ImapAddress::parse('imap://mail.example'))->toThrow(InvalidArgumentException::class, 'encrypted only')
        ->and(fn () => ImapAddress::parse('mail.example'))->toThrow(InvalidArgumentException::class, 'no address')
        ->and(fn () => ImapAddress::parse('imaps://mail.example:70000'))->toThrow(InvalidArgumentException::class, 'no port');
});

it('tells a server that goes away, or never ends its line', function (string $says, string $because): void {
    $listening = stream_socket_server('tcp://127.0.0.1:0');
    $port = (int) substr((string) strrchr((string) stream_socket_get_name($listening, false), ':'), 1);
    if (pcntl_fork() === 0) {
        $line = stream_socket_accept($listening, 30);
        fwrite($line, $says);
        fclose($line);
        posix_kill(posix_getpid(), SIGKILL);
    }
    expect(fn () => ImapMailbox::open(ImapAddress::parse("imap://127.0.0.1:$port"), 'a', 'b'))->toThrow(ImapFailure::class, $because);
    pcntl_wait($status);
})->with([
    'no greeting' => ["* BYE full\r\n", 'does not greet'],
    'gone after the greeting' => ["* OK hello\r\n", 'not there any more'],
    'gone in a literal' => ["* OK hello\r\n* X {500}\r\nabc", 'in the middle of a message'],
    'a literal of gigabytes' => ["* OK hello\r\n* X {9000000000}\r\n", 'cannot be understood'],
    'half a line' => ["* OK hello\r\n* X abc", 'cannot be understood'],
    'another language' => ["HTTP/1.1 200 OK\r\n", 'does not greet'],
]);

it('speaks to a server over TLS only if it shows the certificate that is known', function (string $known, string $because): void {
    $key = openssl_pkey_new(['private_key_type' => OPENSSL_KEYTYPE_EC, 'curve_name' => 'prime256v1']);
    $certificate = openssl_csr_sign(openssl_csr_new(['CN' => 'mail.sorrel.example'], $key), null, $key, 2);
    openssl_x509_export($certificate, $shown);
    openssl_pkey_export($key, $secret);
    $file = (string) tempnam('/tmp', 'kaiseki-tls-');
    file_put_contents($file, $shown.$secret);
    $context = stream_context_create(['ssl' => ['local_cert' => $file]]);
    $listening = stream_socket_server('tls://127.0.0.1:0', $number, $why, STREAM_SERVER_BIND | STREAM_SERVER_LISTEN, $context);
    $port = (int) substr((string) strrchr((string) stream_socket_get_name($listening, false), ':'), 1);
    $heard = (string) tempnam('/tmp', 'kaiseki-heard-');
    if (($child = pcntl_fork()) === 0) {
        $line = @stream_socket_accept($listening, 30);
        if ($line !== false) {
            fwrite($line, "* OK hello\r\n");
            while (($said = fgets($line)) !== false) {
                file_put_contents($heard, $said, FILE_APPEND);
                fwrite($line, (string) strtok($said, ' ')." OK done\r\n");
            }
        }
        posix_kill(posix_getpid(), SIGKILL);
    }
    $print = $known === 'its own' ? '#'.openssl_x509_fingerprint($shown, 'sha256') : ($known === 'another' ? '#'.str_repeat('ab', 32) : '');
    $open = fn (): ImapMailbox => ImapMailbox::open(ImapAddress::parse("imaps://127.0.0.1:$port$print"), 'desk', 'secret word');
    if ($because === '') {
        $open()->close();
        expect(file_get_contents($heard))->toContain('AUTHENTICATE PLAIN '.base64_encode("\0desk\0secret word"));
    } else {
        expect($open)->toThrow(ImapFailure::class, $because)->and(file_get_contents($heard))->toBe('');
    }
    posix_kill($child, SIGKILL);
    pcntl_waitpid($child, $status);
    array_map(unlink(...), [$file, $heard]);
})->with([
    'the one that is known' => ['its own', ''],
    'another than is known' => ['another', 'does not answer'],
    'one that nobody vouches for' => ['none', 'does not answer'],
]);

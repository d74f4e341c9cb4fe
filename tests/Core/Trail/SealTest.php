<?php

declare(strict_types=1);

use Kaiseki\Core\Trail\Seal;
use Kaiseki\Core\Trail\SealedDay;
use Symfony\Component\Process\Process;

it('seals as sha256sum does (GNU coreutils; FIPS 180-4)', function (): void {
    $line = Seal::line(['what' => "Gave \"it\" back: \u{e5}/\u{2028} \u{1f6a2}", 'id' => 7, 'address' => null]);
    expect($line)->toBe("{\"address\":null,\"id\":7,\"what\":\"Gave \\\"it\\\" back: \u{e5}/\u{2028} \u{1f6a2}\"}"); // RFC 8785
    $seal = Seal::FIRST;
    foreach (range(1, 3) as $ignored) {
        $tool = new Process(['sha256sum']);
        $tool->setInput("$seal\n$line");
        $seal = Seal::of($seal, $line);
        expect($seal)->toBe(substr($tool->mustRun()->getOutput(), 0, 64));
    }
});

it('signs a day so that openssl finds it right (RFC 8032), and nothing else', function (): void {
    $pair = sodium_crypto_sign_seed_keypair(str_repeat("\7", 32));
    $day = SealedDay::sign('2026-11-27', 12, str_repeat('ab', 32), $pair);
    $read = SealedDay::parse($day->json());
    assert($read !== null);
    expect($read)->toEqual($day)->and($read->isSound())->toBeTrue();
    $folder = sys_get_temp_dir().'/kaiseki-day-'.bin2hex(random_bytes(6));
    mkdir($folder);
    try {
        file_put_contents("$folder/told", "kaiseki trail day 1\n2026-11-27\n12\n".str_repeat('ab', 32)."\n");
        file_put_contents("$folder/signature", $day->signature);
        // SubjectPublicKeyInfo of an Ed25519 key: RFC 8410, section 4
        file_put_contents("$folder/key.der", hex2bin('302a300506032b6570032100').$day->publicKey);
        $openssl = new Process([
            'openssl', 'pkeyutl', '-verify', '-rawin', '-pubin', '-keyform', 'DER', '-inkey', "$folder/key.der",
            '-sigfile', "$folder/signature", '-in', "$folder/told",
        ]);
        expect($openssl->run())->toBe(0, $openssl->getErrorOutput());
    } finally {
        array_map(unlink(...), glob("$folder/*") ?: []);
        rmdir($folder);
    }
});

it('finds a day that was changed, and takes nothing else for one', function (): void {
    $json = SealedDay::sign('2026-11-27', 12, str_repeat('ab', 32), sodium_crypto_sign_keypair())->json();
    foreach (['2026-11-27' => '2026-11-28', ': 12' => ': 13', 'abab' => 'abac'] as $was => $is) {
        $changed = SealedDay::parse(str_replace((string) $was, $is, $json));
        expect($changed?->isSound())->toBeFalse();
    }
    foreach (['', 'null', '[]', '{"format":"kaiseki trail day 1"}', str_replace('day 1', 'day 2', $json), substr($json, 0, 80)] as $other) {
        expect(SealedDay::parse($other))->toBeNull();
    }
});

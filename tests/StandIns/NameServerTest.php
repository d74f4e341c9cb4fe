<?php

declare(strict_types=1);

use Kaiseki\Core\Names\Addresses;
use Kaiseki\Core\Names\DomainName;
use Kaiseki\Core\Names\NameFailure;
use Kaiseki\Core\Names\TransactionKey;
use Tests\Support\NameServerAtWork;
use Tests\Support\Scratch;

/*
 * Reference: a real name server (BIND, from Debian), asked as anybody asks it. RFC 2136 for changes and what must be so for them, RFC 8945
 * for their signatures.
 */

beforeEach(function (): void {
    $this->server = new NameServerAtWork(['planner' => '192.0.2.10', 'gate' => '192.0.2.30']);
    $this->names = $this->server->open();
    $this->planner = DomainName::of('Planner.Sorrel.example.');
});

afterEach(fn () => $this->server->remove());

it('says what a name leads to, and has it lead elsewhere', function (): void {
    $was = $this->names->addresses($this->planner);
    expect([$was->all, $was->ttl])->toBe([['192.0.2.10'], 60]);
    $both = Addresses::of(['2001:DB8:0::10', '198.51.100.7'], 30);
    $this->names->lead($this->planner, $was, $both);
    expect([$this->server->says('planner.sorrel.example'), $this->server->says('planner.sorrel.example', 'AAAA')])
        ->toBe(['198.51.100.7', '2001:db8::10'])
        ->and($this->names->addresses($this->planner)->equals($both))->toBeTrue()
        ->and($this->names->addresses($this->planner)->ttl)->toBe(30);
    $this->names->lead($this->planner, $both, $was);
    expect([$this->server->says('planner.sorrel.example'), $this->server->says('planner.sorrel.example', 'AAAA')])
        ->toBe(['192.0.2.10', '']);

    // One that led nowhere.
    $new = DomainName::of('slip.sorrel.example');
    expect($this->names->addresses($new)->all)->toBe([]);
    $this->names->lead($new, Addresses::of([]), Addresses::of(['192.0.2.44']));
    expect($this->server->says('slip.sorrel.example'))->toBe('192.0.2.44');
});

it('is still so after the server was ended and came again', function (): void {
    $this->names->lead($this->planner, Addresses::of(['192.0.2.10']), Addresses::of(['192.0.2.77']));
    $this->server->end();
    expect(fn () => $this->names->addresses($this->planner))->toThrow(NameFailure::class, 'does not answer')
        ->and(fn () => $this->names->lead($this->planner, Addresses::of(['192.0.2.77']), Addresses::of(['192.0.2.1'])))
        ->toThrow(NameFailure::class, 'did not take the change');
    $this->server->begin();
    expect($this->names->addresses($this->planner)->all)->toBe(['192.0.2.77']);
});

it('changes nothing that somebody else has changed, and nothing without the key', function (): void {
    foreach ([['192.0.2.11'], ['192.0.2.10', '192.0.2.11'], ['192.0.2.10', '2001:db8::1'], []] as $believed) {
        try {
            $this->names->lead($this->planner, Addresses::of($believed), Addresses::of(['203.0.113.1']));
            $failure = null;
        } catch (NameFailure $failure) {
            // looked at below
        }
        expect($failure?->hasChanged)->toBeTrue((string) $failure?->getMessage());
    }
    $known = TransactionKey::ofFile($this->server->service->keyFile());
    foreach ([['kaiseki', base64_encode(random_bytes(32))], ['somebody', $known->secret]] as [$name, $secret]) {
        $other = $this->server->open(new TransactionKey('hmac-sha256', $name, $secret));
        expect(fn () => $other->lead($this->planner, Addresses::of(['192.0.2.10']), Addresses::of(['203.0.113.1'])))
            ->toThrow(NameFailure::class, 'did not take the change');
    }
    expect($this->server->says('planner.sorrel.example'))->toBe('192.0.2.10');
});

it('leads no other name for a name, and none of another zone', function (): void {
    $this->server->end();
    file_put_contents("{$this->server->service->folder}/zone.db", "desk IN CNAME planner\n", FILE_APPEND);
    $this->server->begin();
    expect(fn () => $this->names->addresses(DomainName::of('desk.sorrel.example')))
        ->toThrow(NameFailure::class, 'is another name for planner.sorrel.example.')
        ->and(fn () => $this->names->addresses(DomainName::of('planner.other.example')))->toThrow(NameFailure::class, 'is not in the zone')
        ->and(fn () => $this->names->lead(DomainName::of('xsorrel.example'), Addresses::of([]), Addresses::of(['192.0.2.1'])))
        ->toThrow(NameFailure::class, 'is not in the zone');
});

it('takes for a name, an address and a key only what is one', function (): void {
    $odd = ['', '.', 'a b', "a\nsend", 'a..b', '-a', 'a-', '@', '192.0.2.1', 'x;y', str_repeat('a', 64), 'é.example', '$(id)'];
    foreach ($odd as $said) {
        expect(fn () => DomainName::of($said))->toThrow(NameFailure::class, 'no name of a host');
    }
    foreach (['', '192.0.2.256', '192.0.2', "192.0.2.1\n", '::g', '192.0.2.1/24', 'fe80::1%eth0'] as $said) {
        expect(fn () => Addresses::of([$said]))->toThrow(NameFailure::class, 'is no address');
    }
    $scratch = new Scratch;
    $key = 'key "up.sorrel" { algorithm HMAC-SHA512; secret "c2VjcmV0"; };';
    expect(TransactionKey::ofFile($scratch->file('good.key', $key)))->toEqual(new TransactionKey('hmac-sha512', 'up.sorrel', 'c2VjcmV0'))
        ->and(fn () => TransactionKey::ofFile($scratch->file('md5.key', str_replace('SHA512', 'MD5', $key))))
        ->toThrow(NameFailure::class, 'is none of')
        ->and(fn () => TransactionKey::ofFile($scratch->file('no.key', 'secret')))->toThrow(NameFailure::class, 'holds no key')
        ->and(fn () => TransactionKey::ofFile($scratch->at('not-there')))->toThrow(NameFailure::class, 'cannot be read');
    $scratch->remove();
});

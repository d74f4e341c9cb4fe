<?php

declare(strict_types=1);

use App\Models\Role;
use App\Runs\ProofKey;
use Kaiseki\Core\Proof\SignedProof;
use Tests\Support\Archives;

// Somebody who can write a file signs a proof of their own with a key of their own.

beforeEach(function (): void {
    $archives = (new Archives($this->scratch()))->put('a', 'one');
    $archives->dump('full');
    $this->kaiseki('adopt', $archives->folder, '--as=tree');
    $this->run = (string) $this->kaiseki(
        'restore', 'tree', '--at=2026-11-01T00:00:00Z', '--path=/', "--to={$this->scratch()->path}/out", '--json',
    )->json()['run'];
    $this->file = $this->scratch()->path.'/proof.json';
    $this->kaiseki('proof', $this->run, "--out={$this->file}");
    $this->foreign = sodium_crypto_sign_keypair();
    $this->forge = function (): string {
        $evidence = json_decode((string) file_get_contents($this->file), true)['evidence'];

        return $this->scratch()->file('forged.json', SignedProof::sign(['files' => 999] + $evidence, $this->foreign)->json());
    };
});

it('takes a proof of this desk', function (): void {
    $answer = $this->kaiseki('check-proof', $this->file, '--json');
    expect($answer->code)->toBe(0)
        ->and($answer->json())->toMatchArray(['sound' => true, 'key_known' => true])
        ->and($this->kaiseki('check-proof', $this->file)->text)->toContain('Signed by the key of this desk');
});

it('refuses one that is well signed by somebody else, and says by whom', function (): void {
    $forged = ($this->forge)();
    $answer = $this->kaiseki('check-proof', $forged);
    expect($answer->code)->toBe(4)
        ->and($answer->text)->toContain(
            'by a key that is not known here: '.base64_encode(sodium_crypto_sign_publickey($this->foreign)),
        )->toContain(ProofKey::shown());
});

it('takes the key that is named, and no other then', function (): void {
    $key = $this->scratch()->file('their.pub', base64_encode(sodium_crypto_sign_publickey($this->foreign)));
    expect($this->kaiseki('check-proof', ($this->forge)(), "--key=$key")->code)->toBe(0)
        ->and($this->kaiseki('check-proof', $this->file, "--key=$key")->code)->toBe(4);
    expect($this->kaiseki('check-proof', $this->file, "--key={$this->scratch()->file('no.pub', 'no key')}")->code)->toBe(2);
});

it('says so on an installation that has no key, and takes those from before where they lie', function (): void {
    $keys = App\Instance::folder('keys');
    rename("$keys/proof.key", "$keys/proof.key.away");
    try {
        $answer = $this->kaiseki('check-proof', $this->file);
        expect($answer->code)->toBe(4)->and($answer->text)->toContain('Signed, by a key that is not known here');
        $public = json_decode((string) file_get_contents($this->file), true)['signature']['public_key'];
        file_put_contents("$keys/proof-2025.pub", $public);
        expect($this->kaiseki('check-proof', $this->file)->code)->toBe(0);
    } finally {
        @unlink("$keys/proof-2025.pub");
        rename("$keys/proof.key.away", "$keys/proof.key");
    }
});

it('shows its key on the page of proofs, in night kits and in exports', function (): void {
    $this->actingAs($this->person(Role::Auditor))->get('/proofs')->assertSee(ProofKey::shown());
    $out = $this->scratch()->path.'/export';
    expect($this->kaiseki('catalog', 'export', $out)->code)->toBe(0)
        ->and(ProofKey::read("$out/proof-key.pub"))->toBe(base64_decode(ProofKey::shown(), true))
        ->and(file_get_contents("$out/catalog.b2sum"))->toContain('proof-key.pub');
    $this->kaiseki('store-add', 'near', $this->scratch()->folder('near'));
    (new App\Care\NightKit)->write();
    expect($this->kaiseki('check-proof', $this->file, "--key={$this->scratch()->path}/near/night-kit/proof-key.pub")->code)->toBe(0);
});

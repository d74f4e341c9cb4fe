<?php

declare(strict_types=1);

use App\Instance;
use App\Kinds\Machines\Metal\KeptMedium;
use App\Kinds\Machines\Metal\MakeMedium;
use App\Kinds\Machines\Metal\MediumFormat;
use App\Line\LineKey;
use App\Models\Role;
use App\Models\TrailEntry;
use Illuminate\Support\Facades\Queue;
use Symfony\Component\Process\Process;

// Recovery media on their page: made by one click, and taken with what proves whose they are. MetalTest makes real ones.

beforeEach(function (): void {
    Queue::fake([MakeMedium::class]);
    file_put_contents(Instance::path('metal'), "192.0.2.9:13480\n");
    $this->actingAs($this->operator = $this->person(Role::Operator));
    /** As it is when it was made. */
    $this->made = function (): KeptMedium {
        $one = KeptMedium::begin(MediumFormat::Iso, '192.0.2.9:13480');
        file_put_contents(KeptMedium::folder().'/medium.iso', 'a disc');
        $sums = hash('sha256', 'a disc')."  medium.iso\n";
        file_put_contents(KeptMedium::folder().'/medium.iso.sha256', $sums);
        file_put_contents(KeptMedium::folder().'/medium.iso.sha256.sig', LineKey::sign($sums));
        $one?->update(['state' => KeptMedium::MADE, 'version' => 2, 'made_at' => now(), 'made_from' => ['linux-image 6.1'], 'files' => [
            ['file' => 'medium.iso', 'bytes' => 6, 'sha256' => hash('sha256', 'a disc')],
        ]]);

        return KeptMedium::query()->where('format', 'iso')->sole();
    };
});

afterEach(fn () => array_map(unlink(...), [...glob(KeptMedium::folder().'/medium.*') ?: [], Instance::path('metal')]));

it('makes each format by one click, once at a time, and says where it looks for the desk', function (): void {
    $this->get('/media')->assertOk()->assertSee(['Recovery media', 'not yet', '192.0.2.9:13480', LineKey::fingerprint()])
        ->assertDontSee('on this machine alone');
    $this->post('/media', ['format' => 'stick'])->assertRedirect('/media');
    $this->post('/media', ['format' => 'stick'])->assertRedirect('/media');
    Queue::assertPushed(MakeMedium::class, 1);
    $this->get('/media')->assertSee('is being made')->assertSee('every 2s');
    expect(TrailEntry::query()->where('what', 'like', 'A recovery medium is made (stick)%')->count())->toBe(1);
    $this->post('/media', ['format' => 'tape'])->assertSessionHasErrors('desk');
    // One that nobody went on with is made again.
    KeptMedium::query()->toBase()->update(['updated_at' => now()->subHour()]);
    $this->post('/media', ['format' => 'stick']);
    Queue::assertPushed(MakeMedium::class, 2);
    KeptMedium::query()->sole()->update(['state' => KeptMedium::FAILED, 'failure' => 'no <b>packages']);
    $this->get('/media')->assertSee('no &lt;b&gt;packages', false);
    file_put_contents(Instance::path('metal'), "127.0.0.1:13480\n");
    $this->get('/media')->assertSee('on this machine alone');
});

it('gives what was made, with its digest and the signature of that, to who may have it', function (): void {
    ($this->made)();
    $this->get('/media')->assertSee(['medium.iso', 'medium.iso.sha256.sig', 'version 2', 'linux-image 6.1', 'Make it anew']);
    $take = fn (string $name): string => (string) $this->get("/media/$name")->assertOk()->streamedContent();
    $folder = $this->scratch()->folder('taken');
    foreach (['medium.iso', 'medium.iso.sha256', 'medium.iso.sha256.sig'] as $name) {
        file_put_contents("$folder/$name", $take($name));
    }
    file_put_contents("$folder/desk.pem", (string) $this->get('/media/desk.pem')->assertOk()->getContent());
    $run = fn (string ...$command): int => (new Process($command, $folder))->run();
    $verify = ['openssl', 'pkeyutl', '-verify', '-pubin', '-inkey', 'desk.pem', '-rawin', '-in', 'medium.iso.sha256', '-sigfile'];
    expect($run('sha256sum', '--check', '--strict', 'medium.iso.sha256'))->toBe(0)
        ->and($run(...[...$verify, 'medium.iso.sha256.sig']))->toBe(0);
    file_put_contents("$folder/medium.iso.sha256", 'x', FILE_APPEND);
    expect($run(...[...$verify, 'medium.iso.sha256.sig']))->not->toBe(0);

    file_put_contents(KeptMedium::folder().'/other', 'nobody made it');
    foreach (['other', 'medium.img', '..', 'packages'] as $name) {
        $this->get("/media/$name")->assertNotFound();
    }
    unlink(KeptMedium::folder().'/other');
    $this->actingAs($this->person(Role::Auditor))->get('/media/medium.iso')->assertForbidden();
    $this->get('/media')->assertForbidden();
});

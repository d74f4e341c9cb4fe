<?php

declare(strict_types=1);

use App\Kinds\Files\Order\FilesSaid;
use App\Models\Workload;
use Tests\Support\Archives;
use Tests\Support\Desk;

it('shows the life of a path: its versions, when it went, where its content went, and the last good one', function (): void {
    $archives = (new Archives($this->scratch()))->put('roster.csv', str_repeat("Ada,06:00\n", 50))->put('plan.txt', 'the plan');
    $archives->dump('full');
    $archives->put('roster.csv', str_repeat("Ada,06:00\nBo,14:00\n", 50));
    $archives->dump('incr');
    $archives->put('roster.csv', '');
    rename("{$archives->source}/plan.txt", "{$archives->source}/plan of October.txt");
    $archives->dump('incr');
    $this->kaiseki('adopt', $archives->folder, '--as=crew');
    $operator = $this->person(App\Models\Role::Operator);
    $id = Workload::query()->sole()->id;
    $this->actingAs($operator)
        ->get("/workloads/$id/versions?path=tree/roster.csv")
        ->assertOk()
        ->assertSee('3 versions in 3 points')
        ->assertSee('Likely the last good version')
        ->assertSee('it was empty after that')
        ->assertSee('still there at the newest point');
    $this->get("/workloads/$id/versions?path=tree/plan.txt")
        ->assertSee('gone since')
        ->assertSee('plan of October.txt')
        ->assertSee('it was renamed or moved');
    $this->get("/workloads/$id/versions?path=no/such")->assertNotFound();
    $this->get("/workloads/$id/versions?path=../x")->assertStatus(404);
    $this->actingAs($this->person(App\Models\Role::Requester))
        ->get("/workloads/$id/versions?path=tree/plan.txt")
        ->assertForbidden();
});

it('compares text by lines and tables by cells, and what stands there now', function (): void {
    $desk = new Desk(
        $this,
        fn ($a) => $a->put('notes.txt', "one\ntwo\nthree\n")->put('fares.csv', "route,fare\nA,10\nB,20\nC,30\n"),
        fn ($a) => $a
            ->put('notes.txt', "one\n2\nthree\nfour\n")
            ->put('fares.csv', "route,fare\nA,10\nB,25\nC,30\nD,<script>alert(1)</script>\n"),
    );
    $this->scratch()->file('hosts/crew/files/tree/notes.txt', "one\ntwo\nthree\nlive line\n");
    $id = $desk->request->workload_id;
    $ids = fn (string $path): array => array_map(
        fn ($version): int => $version->id,
        (new App\Trees\Catalog\CatalogReader)->versionsOf($desk->request->workload, $path),
    );
    [$a, $b] = $ids('tree/notes.txt');
    $this->actingAs($desk->operator)
        ->get("/workloads/$id/compare?path=tree/notes.txt&old=$a&new=$b")
        ->assertOk()
        ->assertSee('2 lines added, 1 gone')
        ->assertSee('four');
    $this->get("/workloads/$id/compare?path=tree/notes.txt&old=$a&new=live")
        ->assertSee('what stands there now')
        ->assertSee('live line');
    [$a, $b] = $ids('tree/fares.csv');
    $this->get("/workloads/$id/compare?path=tree/fares.csv&old=$a&new=$b")
        ->assertSee('2 rows differ, 1 cell')
        ->assertSee('<del>20</del> <ins>25</ins>', false)
        ->assertDontSee('<script>alert', false)
        ->assertSee('&lt;script&gt;alert', false);
    $this->get("/workloads/$id/compare?path=tree/fares.csv&old=$a&new=$a")->assertSee('the same, byte for byte');
    $this->get("/workloads/$id/compare?path=tree/fares.csv&old=999999&new=$a")->assertSee('Choose two versions');
    $this->post("{$desk->url}/version", ['path' => rawurlencode('tree/fares.csv'), 'set' => $desk->set(0)->id])->assertRedirect(
        "{$desk->url}?show=where",
    );
    expect($desk->request->refresh()->set_id)
        ->toBe($desk->set(0)->id)
        ->and(FilesSaid::of($desk->request)->paths())
        ->toBe(['tree/fares.csv']);
});

it('shows contents without believing them: scripts as text, pictures drawn anew, nothing as a page of ours', function (): void {
    $picture = imagecreatetruecolor(30, 20);
    ob_start();
    imagejpeg($picture);
    $jpeg = (string) ob_get_clean();
    $zip = "{$this->scratch()->path}/letter.odt";
    $archive = new ZipArchive;
    $archive->open($zip, ZipArchive::CREATE);
    $archive->addFromString(
        'content.xml',
        '<office:document-content xmlns:office="o" xmlns:text="t"><text:p>Dear '.
            '&lt;purser&gt;</text:p><text:p>starboard</text:p></office:document-content>',
    );
    $archive->close();
    $hurt = '<html><script>window.hurt = 1</script><svg onload="hurt()">';
    $desk = new Desk(
        $this,
        fn ($a) => $a
            ->put('page.html', $hurt)
            ->put('photo.jpg', $jpeg.$hurt)
            ->put('not a photo.jpg', "\xff\xd8\xff$hurt")
            ->put('letter.odt', (string) file_get_contents($zip))
            ->put('"><script>hurt()<!--', 'x')
            ->put("\r\nSet-Cookie: a=b", 'y')
            ->put('vector.svg', $hurt)
            ->put('binary', "\0\1\2"),
        fn ($a) => $a->put('z', 'z'),
    );
    $set = $desk->set(0)->id;
    $look = fn (string $name, string $what = 'look') => $this->actingAs($desk->operator)->get(
        "/sets/$set/$what?path=".rawurlencode("tree/$name"),
    );
    foreach (['page.html', 'vector.svg'] as $name) {
        $look($name)
            ->assertOk()
            ->assertSee('&lt;script&gt;window.hurt', false)
            ->assertDontSee('<script>window', false)
            ->assertHeader('Content-Security-Policy');
    }
    $look('letter.odt')->assertSee('Dear &lt;purser&gt;', false)->assertSee('starboard');
    $look('binary')->assertSee('neither text nor a picture');
    $look('photo.jpg')->assertSee('/picture?path=');
    $drawn = $look('photo.jpg', 'picture')->assertOk()->assertHeader('Content-Type', 'image/png')->getContent();
    expect(getimagesizefromstring((string) $drawn))
        ->toMatchArray([30, 20])
        ->and((string) $drawn)
        ->not->toContain('script');
    $look('not a photo.jpg', 'picture')->assertStatus(415);
    $look('binary', 'picture')->assertStatus(415);
    $this->get("{$desk->url}?show=what&folder=tree")
        ->assertOk()
        ->assertDontSee('"><script>hurt', false);
    $taken = $look("\r\nSet-Cookie: a=b", 'file')->assertOk();
    expect(array_map(fn ($cookie): string => $cookie->getName(), $taken->headers->getCookies()))
        ->not->toContain('a')
        ->and((string) $taken->headers->get('Content-Disposition'))
        ->not->toContain("\n");
    $this->actingAs($desk->requester)
        ->get("/sets/$set/look?path=tree/binary")
        ->assertForbidden();
});

it('takes words out of a PDF, in a process of its own, and says so where there are none', function (): void {
    $pdf = new Dompdf\Dompdf(['defaultFont' => 'Helvetica']);
    $pdf->loadHtml('<p>Sailing manifest of the Dunlin</p>');
    $pdf->render();
    $desk = new Desk(
        $this,
        fn ($a) => $a->put('manifest.pdf', (string) $pdf->output())->put('broken.pdf', '%PDF-1.7 nothing of the kind'),
        fn ($a) => $a->put('z', 'z'),
    );
    $set = $desk->set(0)->id;
    $this->actingAs($desk->operator)
        ->get("/sets/$set/look?path=tree/manifest.pdf")
        ->assertSee('Sailing manifest of the Dunlin');
    $this->get("/sets/$set/look?path=tree/broken.pdf")
        ->assertOk()
        ->assertSee('neither text nor a picture');
});

it('shows and gives back access lists and attributes where the archive holds them', function (): void {
    // On a disk, since not every file system in memory has them.
    $folder = '/var/tmp/kaiseki-'.bin2hex(random_bytes(6));
    mkdir("$folder/src/tree", 0755, true);
    mkdir("$folder/archives");
    try {
        file_put_contents("$folder/src/tree/fares.csv", 'A,10');
        $this->scratch()->run('setfacl', '-m', 'u:1234:rw-,g:daemon:r--', "$folder/src/tree/fares.csv");
        $this->scratch()->run('setfattr', '-n', 'user.origin', '-v', 'the purser', "$folder/src/tree/fares.csv");
        $this->scratch()->run(
            'tar',
            '-czf',
            "$folder/archives/t.full.20261001T020000Z.tar.gz",
            '--format=posix',
            '--acls',
            '--xattrs',
            "--listed-incremental=$folder/snar",
            '-C',
            "$folder/src",
            'tree',
        );
        $this->kaiseki('adopt', "$folder/archives", '--as=crew');
        $restored = $this->kaiseki('restore', 'crew', '--at=2026-11-01T00:00:00Z', '--path=/', "--to=$folder/out", '--json');
        expect($restored->code)->toBe(0, $restored->text);
        expect($this->scratch()->run('getfacl', '--omit-header', '--absolute-names', "$folder/out/tree/fares.csv"))->toBe(
            $this->scratch()->run('getfacl', '--omit-header', '--absolute-names', "$folder/src/tree/fares.csv"),
        );
        expect(
            $this->scratch()->run('getfattr', '--only-values', '--absolute-names', '-n', 'user.origin', "$folder/out/tree/fares.csv"),
        )->toBe('the purser');
        $this->actingAs($this->person(App\Models\Role::Operator))
            ->get('/sets/'.App\Models\BackupSet::query()->sole()->id.'/look?path=tree/fares.csv')
            ->assertSee('the purser')
            ->assertSee('Access list')->assertSee('user:1234:rw-');
    } finally {
        (new Symfony\Component\Process\Process(['rm', '-rf', $folder]))->run();
    }
});

it('picks a version for the request that one came from, or for one that is chosen', function (): void {
    $desk = new Desk($this, fn ($a) => $a->put('notes', 'one'), fn ($a) => $a->put('notes', 'two'));
    $first = $desk->request;
    $page = "/workloads/{$first->workload_id}/versions?path=tree/notes";
    $this->actingAs($desk->operator)->get($page)->assertSee("Pick a version for request {$first->id}")->assertDontSee('For this one');
    $second = $first->replicate(['state', 'closed_at'])->fill(['summary' => 'Another of the same']);
    $second->save();
    $this->get($page)->assertSee('Pick a version for a request')->assertSee('Another of the same')->assertDontSee('Pick it');
    $this->get("$page&request={$second->id}")
        ->assertSee("Pick a version for request {$second->id}")
        ->assertSee("action=\"/requests/{$second->id}/version\"", false)
        ->assertDontSee("action=\"/requests/{$first->id}/version\"", false)
        ->assertSee('For this one instead');
    $this->get("$page&request=999999")->assertSee('Pick a version for a request');
    $this->get("/requests/{$second->id}?show=what&folder=tree")->assertSee("versions?request={$second->id}&amp;path=tree%2Fnotes", false);
});

<?php

declare(strict_types=1);

use App\Kinds\Items\Own\OwnMailbox;
use App\Kinds\Items\Own\OwnRule;
use App\Kinds\Kinds;
use App\Models\Approval;
use App\Models\RecoveryRequest;
use App\Models\Role;
use App\Models\Run;
use App\Models\TrailEntry;
use App\Models\User;
use App\Models\Workload;
use Illuminate\Support\Facades\DB;
use Illuminate\Support\Facades\Queue;
use Illuminate\Support\Facades\RateLimiter;
use Kaiseki\Core\Mail\Message;
use Tests\Support\CrewMail;
use Tests\Support\MailSamples;

/*
 * What people bring back themselves: out of their own mailbox and into it, on a real server (Dovecot). Ada and Ben have one message in
 * common, and each one that the other never had; of Ada two are gone, the one that Ben has still among them.
 */

beforeEach(function (): void {
    Queue::fake();
    $this->crew = $crew = new CrewMail($this, 17);
    $samples = new MailSamples(17);
    [$this->common, $this->adas, $this->bens, $this->kept] = array_map(fn (): string => $samples->message(), range(1, 4));
    $ada = $crew->server->open(CrewMail::ADA);
    foreach ([$this->common, $this->adas, $this->kept] as $message) {
        $crew->arrive($ada, $message, 'INBOX');
    }
    $ben = $crew->server->open(CrewMail::BEN);
    foreach ([$this->common, $this->bens] as $message) {
        $crew->arrive($ben, $message, 'INBOX');
    }
    $crew->protect('full');
    $ada->select('INBOX');
    $uids = array_map(fn ($message): int => $message->uid, $ada->messages());
    $ada->remove([$uids[0], $uids[1]]);
    $ada->close();
    $ben->close();
    $crew->protect('incr');
    $crew->known();
    $this->workload = Workload::query()->sole();
    $this->workload->update(['group' => 'crew office']);
    $this->ada = $this->person(Role::Requester, ['crew office']);
    $this->ada->update(['email' => 'Ada@Sorrel.example']);
    $this->url = "/own/{$this->workload->id}";
    $this->box = "{$this->url}?mailbox=".urlencode(CrewMail::ADA);
});

afterEach(function (): void {
    $this->crew->server->remove();
    $this->crew = null;
});

function keyOf(string $message): string
{
    return substr(bin2hex(Message::identityOf($message)), 0, 16);
}

/**
 * Ticks items, reads what would come back, and says yes to it.
 *
 * @param  list<string>  $items
 * @param  array<string, string>  $more
 */
function bringOwn(Tests\TestCase $test, array $items, array $more = []): Illuminate\Testing\TestResponse
{
    $said = ['mailbox' => CrewMail::ADA, 'items' => implode(',', $items)] + $more;
    $page = $test->get("{$test->url}/order?".http_build_query($said));
    preg_match('/name="seen" value="([0-9a-f]{64})"/', (string) $page->getContent(), $seen);

    return $test->post("{$test->url}/order", $said + ['seen' => $seen[1] ?? str_repeat('0', 64)]);
}

it('is nobody’s before a rule lets them, and then only of who bears the address or was given the mailbox', function (): void {
    expect(OwnMailbox::of($this->ada))->toBe([]);
    $this->actingAs($this->ada)->get('/')->assertOk()->assertDontSee('Yours');
    $this->get('/own')->assertForbidden();
    $this->get($this->box)->assertForbidden();
    $this->told(0, 'own-items', 'allow', CrewMail::WORKLOAD, '--most=3');
    $names = fn (User $user): array => array_column(OwnMailbox::of($user), 'name');
    expect($names($this->ada))->toBe([CrewMail::ADA])
        ->and($names($this->person(Role::Requester, ['piers'])))->toBe([]);
    $this->get('/')->assertSee('Yours');
    $this->get('/own')->assertRedirect("{$this->url}?".http_build_query(['mailbox' => CrewMail::ADA]));
    foreach (['ada@sorrel.example.piers.example', 'xada@sorrel.example', 'ada', 'ada@sorrel.example '] as $like) {
        $other = $this->person(Role::Requester, ['crew office']);
        $other->email = $like;
        expect($names($other))->toBe([], $like);
    }
    $office = $this->person(Role::Approver, ['crew office']);
    $this->told(0, 'own-items', 'give', CrewMail::WORKLOAD, '--mailbox='.CrewMail::BEN, "--person={$office->email}");
    expect($names($office))->toBe([CrewMail::BEN])
        ->and($this->told(0, 'own-items', 'list')['mailboxes'][0]['person'])->toBe($office->email);
    $this->told(0, 'own-items', 'take', CrewMail::WORKLOAD, '--mailbox='.CrewMail::BEN, "--person={$office->email}");
    expect($names($office))->toBe([]);
    foreach ([['locked_at' => now()], ['locked_at' => null, 'workload_groups' => ['piers']], ['role' => Role::Administrator]] as $change) {
        $this->ada->update($change);
        expect($names($this->ada->refresh()))->toBe([]);
    }
});

it('shows what is gone from a mailbox, and nothing of what lay in another', function (): void {
    OwnRule::settle($this->workload, 10, 10, null);
    $this->actingAs($this->ada);
    $page = $this->get($this->box)->assertOk()->assertSee('Gone from it');
    // The one that Ben has still is gone from hers.
    foreach ([[$this->common, true], [$this->adas, true], [$this->kept, false], [$this->bens, false]] as [$message, $isListed]) {
        expect(str_contains((string) $page->getContent(), keyOf($message)))->toBe($isListed);
    }
    $found = $this->get("{$this->box}&q=".urlencode('kind:message'));
    foreach ([[$this->common, true], [$this->adas, true], [$this->kept, true], [$this->bens, false]] as [$message, $isListed]) {
        expect(str_contains((string) $found->getContent(), keyOf($message)))->toBe($isListed);
    }
    $this->get("{$this->box}&q=".urlencode('mailbox:ben'))->assertOk()->assertDontSee(keyOf($this->common));
    $opened = $this->get("{$this->box}&item=".keyOf($this->common))->assertOk()->assertSee('Bring back this');
    expect($opened->getContent())->not->toContain(CrewMail::BEN.'/');
    $this->get("{$this->box}&item=".keyOf($this->bens))->assertOk()->assertSee('nothing of that name');
    $this->get("{$this->box}&q=colour:red")->assertOk()->assertSee('is nothing that is looked for');
});

it('serves what an item of one’s own holds, and of no other mailbox anything', function (): void {
    OwnRule::settle($this->workload, 10, 10, null);
    $this->actingAs($this->ada);
    $own = fn (string $message): string => "{$this->url}/".keyOf($message);
    $source = $this->get("{$own($this->adas)}/source?mailbox=".CrewMail::ADA)->assertOk();
    expect(Message::identityOf((string) $source->getContent()))->toBe(Message::identityOf($this->adas))
        ->and($source->headers->get('Content-Disposition'))->toStartWith('attachment; ');
    $this->get("{$own($this->bens)}/source?mailbox=".CrewMail::ADA)->assertNotFound();
    $this->get("{$own($this->bens)}/source?mailbox=".CrewMail::BEN)->assertForbidden();
    $this->get("{$own($this->adas)}/part/99?mailbox=".CrewMail::ADA)->assertNotFound();
    $this->get("{$this->url}?mailbox=".CrewMail::BEN)->assertForbidden();
    $this->get("{$this->url}/order?".http_build_query(['mailbox' => CrewMail::BEN, 'items' => keyOf($this->bens)]))->assertForbidden();
    $this->post("{$this->url}/order", ['mailbox' => CrewMail::BEN, 'items' => keyOf($this->bens), 'seen' => str_repeat('0', 64)])
        ->assertForbidden();
    $told = TrailEntry::query()->where('what', 'like', 'Took the source of the message%own mailbox '.CrewMail::ADA.'%');
    expect($told->sole()->user_id)->toBe($this->ada->id);
});

it('brings back what one picks, tells of it, and takes it away again', function (): void {
    OwnRule::settle($this->workload, 10, 10, null);
    $this->actingAs($this->ada);
    $before = $this->crew->now(CrewMail::ADA);
    bringOwn($this, [keyOf($this->common), keyOf($this->adas)])->assertSessionHasNoErrors();
    $run = Run::query()->sole();
    $request = $run->request;
    expect([$run->user_id, $request->requester_id, $run->plan['own_of']])->toBe([$this->ada->id, $this->ada->id, $this->ada->id]);
    $this->get("/requests/{$request->id}")->assertOk()->assertSee('It is being brought back.')->assertSee('every 2s');
    bringOwn($this, [keyOf($this->adas)])->assertSessionHasErrors();
    expect(RecoveryRequest::query()->count())->toBe(1);

    Kinds::of($run)->carrier()->carryOut($run);
    expect($run->refresh()->state)->toBe('done', (string) $run->failure)->and($run->outcome['messages'])->toBe(2);
    $now = $this->crew->now(CrewMail::ADA);
    expect(array_column($now[CrewMail::ADA.'/INBOX'], 0))->toEqualCanonicalizing(
        array_map(fn (string $one): string => bin2hex(Message::identityOf($one)), [$this->common, $this->adas, $this->kept]),
    )->and($this->crew->now(CrewMail::BEN)[CrewMail::BEN.'/INBOX'])->toHaveCount(2);
    $this->get("/requests/{$request->id}")->assertOk()->assertSee('all of it was found right')->assertSee('passed:')
        ->assertSee('Take it away again')->assertDontSee('every 2s');

    $this->post("/runs/{$run->id}/put-back")->assertSessionHasNoErrors();
    $this->get("/requests/{$request->id}")->assertSee('It is being taken away again.')->assertSee('every 2s')
        ->assertDontSee('Take it away again');
    Kinds::of($run)->carrier()->putBack($run->refresh(), false);
    $this->get("/requests/{$request->id}")->assertSee('It was taken away again.')->assertDontSee('every 2s');
    expect($this->crew->now(CrewMail::ADA))->toBe($before)
        ->and(TrailEntry::query()->where('run_id', $run->id)->where('user_id', $this->ada->id)->count())->toBeGreaterThan(0);
    $this->actingAs($this->person(Role::Requester, ['crew office']))->post("/runs/{$run->id}/put-back")->assertForbidden();
});

it('signs in as the person whose mailbox it is, to see what they see, by a password that is kept nowhere', function (): void {
    OwnRule::settle($this->workload, 10, 10, null);
    $this->actingAs($this->ada);
    bringOwn($this, [keyOf($this->common), keyOf($this->adas)]);
    $run = Run::query()->sole();
    Kinds::of($run)->carrier()->carryOut($run);
    $page = "/requests/{$run->request_id}";
    $secret = 'secret-of-'.CrewMail::ADA;
    $this->get($page)->assertOk()->assertSee('See whether it is there as you see it');
    $this->post("/runs/{$run->id}/seen", ['password' => 'wrong'])->assertSessionHasErrors('password');
    expect($run->refresh()->outcome)->not->toHaveKey('seen_as_user');
    $this->post("/runs/{$run->id}/seen", ['password' => $secret])->assertSessionHasNoErrors();
    $seen = $run->refresh()->outcome['seen_as_user'];
    expect(array_column($seen['checks'], 'result'))->toBe(['passed'])->and($seen['checks'][0]['detail'])->toBe('2 of 2 messages');
    $this->get($page)->assertSee('Seen by signing in as '.CrewMail::ADA);
    // It is in the proof, whose signature holds, and the password is nowhere.
    $proof = Kaiseki\Core\Proof\SignedProof::parse((string) file_get_contents(App\Runs\RunFiles::proof($run)));
    expect($proof->isSound())->toBeTrue()->and($proof->evidence['seen_as_user']['account'])->toBe(CrewMail::ADA);
    $kept = json_encode([$run->toArray(), TrailEntry::query()->get()->toArray(), session()->all(), $proof->evidence]);
    expect($kept)->not->toContain($secret)->and($kept)->toContain('gave for this once');
    $this->actingAs($this->person(Role::Operator))->get($page)->assertOk();
    $this->get("/runs/{$run->id}/page")->assertOk()->assertSee('Seen by signing in as');

    // One that somebody else took away since is not there as its owner sees it.
    $ada = $this->crew->server->open(CrewMail::ADA);
    $ada->select('INBOX');
    $uids = array_map(fn ($message): int => $message->uid, $ada->messages());
    $ada->remove([max($uids)]);
    $ada->close();
    $this->actingAs($this->ada)->post("/runs/{$run->id}/seen", ['password' => $secret]);
    expect($run->refresh()->outcome['seen_as_user']['checks'][0])->toMatchArray(['result' => 'failed', 'detail' => '1 of 2 messages']);

    // Nobody tries passwords of a mailbox here.
    foreach (range(1, 5) as $try) {
        RateLimiter::hit("seen-as-user:{$this->ada->id}", 900); // the server lets whoever guesses wait for longer each time
    }
    $this->post("/runs/{$run->id}/seen", ['password' => $secret])
        ->assertSessionHasErrors(['password' => 'That was tried too often: wait a quarter of an hour.']);
    $this->actingAs($this->person(Role::Operator))->post("/runs/{$run->id}/seen", ['password' => $secret])->assertForbidden();
});

it('puts it into a folder of the same mailbox where that is wanted', function (): void {
    OwnRule::settle($this->workload, 10, 10, null);
    $this->actingAs($this->ada);
    bringOwn($this, [keyOf($this->adas)], ['folder' => 'Back again'])->assertSessionHasNoErrors();
    $run = Run::query()->sole();
    Kinds::of($run)->carrier()->carryOut($run);
    expect($run->refresh()->state)->toBe('done', (string) $run->failure)
        ->and($this->crew->now(CrewMail::ADA)[CrewMail::ADA.'/Back again'])->toHaveCount(1);
});

it('refuses more than the rule allows, what is not there, and what is not what was shown', function (): void {
    OwnRule::settle($this->workload, 1, 10, null);
    $this->actingAs($this->ada);
    $both = [keyOf($this->common), keyOf($this->adas)];
    $this->get("{$this->url}/order?".http_build_query(['mailbox' => CrewMail::ADA, 'items' => implode(',', $both)]))->assertOk()
        ->assertSee('more than is brought back by oneself')->assertDontSee('Yes, bring back');
    bringOwn($this, $both)->assertSessionHasErrors();
    bringOwn($this, [keyOf($this->bens)])->assertSessionHasErrors();
    bringOwn($this, [])->assertSessionHasErrors();
    $this->post("{$this->url}/pick", ['mailbox' => CrewMail::ADA])->assertSessionHasErrors(['items' => 'Nothing was ticked.']);
    $this->post("{$this->url}/pick", ['mailbox' => CrewMail::ADA, 'ticked' => $both])
        ->assertRedirect("{$this->url}/order?".http_build_query(['mailbox' => CrewMail::ADA, 'items' => implode(',', $both)]));
    $this->post("{$this->url}/pick", ['mailbox' => CrewMail::ADA, 'ticked' => ['../x']])->assertSessionHasErrors();
    $this->post("{$this->url}/order", ['mailbox' => CrewMail::ADA, 'items' => '../../x'])->assertSessionHasErrors();
    $this->post("{$this->url}/order", ['mailbox' => CrewMail::ADA, 'items' => $both[0], 'conflict' => 'beside'])->assertSessionHasErrors();
    $this->post("{$this->url}/order", ['mailbox' => CrewMail::ADA, 'items' => $both[0], 'seen' => str_repeat('0', 64)])
        ->assertSessionHasErrors(['items' => 'It is not what was shown any more. Read it again, then say yes.']);
    expect(RecoveryRequest::query()->count())->toBe(0)->and(Run::query()->count())->toBe(0);
});

it('leaves nothing behind where the mailbox cannot be reached', function (): void {
    OwnRule::settle($this->workload, 10, 10, null);
    DB::table('mail_servers')->update(['imap' => 'imap://127.0.0.1:1']);
    $this->actingAs($this->ada);
    bringOwn($this, [keyOf($this->adas)])->assertSessionHasErrors();
    expect(RecoveryRequest::query()->count())->toBe(0);
});

it('asks a second person where the workload is marked, and asks the rule again when the run begins', function (): void {
    OwnRule::settle($this->workload, 10, 10, null);
    $this->workload->update(['needs_approval' => true]);
    $this->actingAs($this->ada);
    bringOwn($this, [keyOf($this->adas)])->assertSessionHasNoErrors();
    $approval = Approval::query()->sole();
    $this->get("/requests/{$approval->request_id}")->assertOk()->assertSee('waits for a second person');
    expect(Run::query()->count())->toBe(0);
    $this->post("/approvals/{$approval->id}", ['do' => 'approve', 'order' => $approval->order])->assertForbidden();
    $approver = $this->person(Role::Approver, ['crew office']);
    $this->actingAs($approver)->get("/approvals/{$approval->id}")->assertOk()->assertSee('Bring back the message');
    App\Orders\Approvals::decide($approval, $approver, $approval->order, null);
    $run = Run::query()->sole();
    expect($run->user_id)->toBe($this->ada->id);

    OwnRule::end($this->workload, $approver);
    Kinds::of($run)->carrier()->carryOut($run);
    expect($run->refresh()->state)->toBe('failed')->and($run->failure)->toContain('only where a rule of');
});

it('takes an order of somebody’s own over only with rights of one’s own', function (): void {
    OwnRule::settle($this->workload, 10, 10, null);
    $this->actingAs($this->ada);
    bringOwn($this, [keyOf($this->adas)])->assertSessionHasNoErrors();
    $run = Run::query()->sole();
    $run->update(['state' => 'failed', 'ended_at' => now()]);
    $run->request->update(['state' => 'open']);
    $sheet = Kinds::ofRequest($run->request->refresh())->sheet($run->request);
    expect($sheet->refusedTo($this->ada))->toBeNull()
        ->and($sheet->refusedTo($this->person(Role::Operator, ['crew office'])))->not->toBeNull()
        ->and($sheet->refusedTo($this->person(Role::Operator)))->toBeNull();
});

it('is settled on the care page by who tends the workload, and by nobody else', function (): void {
    $care = "/workloads/{$this->workload->id}/care";
    $allow = ['do' => 'allow', 'most_items' => '20', 'most_mb' => '30'];
    $this->actingAs($this->person(Role::Auditor))->get($care)->assertOk()
        ->assertSee('Only the desk brings back')->assertDontSee('Let them');
    $this->post("/workloads/{$this->workload->id}/own-items", $allow)->assertForbidden();
    $this->actingAs($this->ada)->post("/workloads/{$this->workload->id}/own-items", $allow)->assertForbidden();
    $this->actingAs($this->person(Role::Operator))->post("/workloads/{$this->workload->id}/own-items", $allow)->assertSessionHasNoErrors();
    $this->get($care)->assertSee('at most 20 items and 30 MB at once');
    $this->post("/workloads/{$this->workload->id}/own-items", ['most_items' => '0'] + $allow)->assertSessionHasErrors('most_items');
    $this->post("/workloads/{$this->workload->id}/own-items", ['do' => 'end'])->assertSessionHasNoErrors();
    expect(OwnRule::of($this->workload))->toBeNull()
        ->and(TrailEntry::query()->where('what', 'like', 'People%bring back what is their own%')->count())->toBe(2);
});

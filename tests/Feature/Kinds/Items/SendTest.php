<?php

declare(strict_types=1);

use App\Kinds\Items\Order\ItemsSheet;
use App\Models\BackupSet;
use App\Models\RecoveryRequest;
use App\Models\Role;
use App\Models\Run;
use App\Models\Store;
use App\Models\Workload;
use App\Runs\RunFiles;
use Illuminate\Support\Facades\Mail;
use Kaiseki\Core\Files\Journal;
use Kaiseki\Core\Mail\ItemSort;
use Tests\Support\CalendarSamples;
use Tests\Support\Desk;
use Tests\Support\MailSamples;
use Tests\Support\Sink;

/* Items attached to a message, through a mail server on loopback. */

beforeEach(function (): void {
    $scratch = $this->scratch();
    $samples = new MailSamples(61);
    $this->letters = array_map(fn (): string => $samples->message(), range(1, 9));
    foreach ($this->letters as $number => $letter) {
        $scratch->file("mail/ada/Maildir/cur/179000000$number.M1.h:2,S", $letter);
    }
    $calendars = new CalendarSamples(9);
    [$this->appointment, $this->card] = [$calendars->appointment(), $calendars->contact()];
    $scratch->file('mail/ada/work/a.ics', $this->appointment);
    $scratch->file('mail/ada/people/c.vcf', $this->card);
    $this->set = $this->told(0, 'protect', 'post', "--mail={$scratch->path}/mail", '--level=full')['set'];
    $this->sink = Sink::smtp($scratch);
    config(['mail.default' => 'smtp', 'mail.mailers.smtp.url' => "smtp://127.0.0.1:{$this->sink->port}"]);
    Mail::purge('smtp');
});

afterEach(function (): void {
    $this->sink->end();
    Mail::purge('smtp');
});

it('attaches each as it was, which Python takes apart again', function (): void {
    $told = $this->told(0, 'restore', 'post', "--point={$this->set}", '--mailbox=ada', '--send=greta@sorrel.example');
    expect($told['entries'])->toBe(11)->and($told['checks'][0]['result'])->toBe('passed')->and($this->sink->got())->toHaveCount(1)
        ->and($this->sink->got()[0]['to'])->toBe(['greta@sorrel.example']);
    $program = <<<'PYTHON'
        import json, sys, base64, email, email.policy
        m = email.message_from_bytes(base64.b64decode(json.load(sys.stdin)), policy=email.policy.SMTP)
        out = []
        for part in m.iter_attachments():
            is_message = part.get_content_type() == 'message/rfc822'
            inner = part.get_payload(0).get('Message-ID', '') if is_message else part.get_payload(decode=True).decode()
            out.append([part.get_content_type(), inner.strip()])
        print(json.dumps(out))
        PYTHON;
    $raw = base64_encode((string) preg_replace('/^\.\./m', '.', (string) base64_decode($this->sink->got()[0]['raw'])));
    $parts = MailSamples::python($program, $raw);
    $ids = array_map(fn (string $letter): string => preg_match('/^Message-ID: (\S+)/m', $letter, $m) === 1 ? $m[1] : '', $this->letters);
    expect(array_column(array_filter($parts, fn (array $of): bool => $of[0] === 'message/rfc822'), 1))->toEqualCanonicalizing($ids);
    foreach ([['text/calendar', ItemSort::Appointment, $this->appointment], ['text/vcard', ItemSort::Contact, $this->card]] as [$type,
        $sort, $was]) {
        $is = array_values(array_filter($parts, fn (array $of): bool => $of[0] === $type))[0][1];
        expect($sort->identityOf("$is\r\n"))->toBe($sort->identityOf($was));
    }
    $this->told(0, 'restore', 'post', "--point={$this->set}", '--mailbox=ada', '--folder=INBOX', '--send=greta@sorrel.example');
    expect($this->sink->got())->toHaveCount(2)->and(Run::query()->get()->every(fn (Run $run): bool => $run->outcome['right']))->toBeTrue();
});

it('is not sent twice where it is not known whether it was', function (): void {
    $run = Run::query()->create([
        'workload_id' => Workload::query()->sole()->id, 'set_id' => BackupSet::query()->sole()->id, 'state' => 'queued',
        'is_whole' => false,
        'plan' => [
            'selection' => ['mailbox' => 'ada'], 'server' => '', 'mailbox' => '', 'folder' => '', 'conflict' => 'missing-only',
            'target' => '',
            'form' => 'eml', 'sentence' => 'x', 'use' => [], 'avoid' => [], 'send' => 'greta@sorrel.example',
        ],
    ]);
    Journal::open(RunFiles::journal($run))->add('sending', 'greta@sorrel.example');
    App\Kinds\Kinds::of($run)->carrier()->carryOut($run);
    expect($run->refresh()->state)->toBe('failed')->and($run->failure)->toContain('It is not known whether')
        ->and($this->sink->got())->toBe([]);
});

it('is settled on the worksheet, and refused where it cannot be', function (): void {
    $workload = Workload::query()->sole();
    $workload->update(['group' => 'crew office']);
    Store::query()->get()->each(fn (Store $store) => Desk::belongs($store, 'crew office'));
    $request = RecoveryRequest::query()->create([
        'workload_id' => $workload->id, 'requester_id' => $this->person(Role::Requester)->id, 'summary' => 'A letter', 'reason' => 'Needed',
        'wanted_at' => now()->addMinute(), 'due_at' => now()->addHour(),
    ])->refresh();
    $this->actingAs($this->person(Role::Operator));
    $settle = fn (array $body) => $this->post("/requests/{$request->id}/items", $body);
    $settle(['settle' => 'pick', 'pick' => 'mailbox', 'mailbox' => 'ada'])->assertSessionHasNoErrors();
    $settle(['settle' => 'where', 'destination' => 'send', 'send_to' => 'nobody'])->assertSessionHasErrors('send_to');
    $settle(['settle' => 'where', 'destination' => 'send', 'send_to' => ''])->assertSessionHasNoErrors();
    $sheet = fn (): ItemsSheet => new ItemsSheet($request->refresh());
    expect($sheet()->blockers())->toBe(['It is not said yet whom it is sent to.']);
    $settle(['settle' => 'where', 'destination' => 'send', 'send_to' => 'greta@sorrel.example'])->assertSessionHasNoErrors();
    expect($sheet()->blockers())->toBe([])->and($sheet()->needsApproval())->toBeFalse()
        ->and($sheet()->sentence('UTC'))->toContain('into a message to greta@sorrel.example');
    $this->get("/requests/{$request->id}?show=where")->assertOk()->assertSee('greta@sorrel.example');
    $this->get("/requests/{$request->id}?show=run")->assertOk()->assertSee('It cannot be put back.');
    $workload->update(['needs_approval' => true]);
    expect($sheet()->needsApproval())->toBeTrue()
        ->and($this->kaiseki('restore', 'post', "--point={$this->set}", '--mailbox=ada', '--send=a@b.example', '--json')->text)
        ->toContain('waits for a second person');
    config(['mail.default' => 'array']);
    expect($sheet()->blockers())->toBe(['The desk has no mail server to send by: KAISEKI_MAIL when it is started, or take files.']);
});

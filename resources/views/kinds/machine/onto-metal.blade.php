<form method="post" action="/requests/{{ $request->id }}/enrolment" class="mt-3" id="to-metal">@csrf
    <h3 class="fs-6">The whole machine, onto the disks of another</h3>
    @foreach ($enrolments as $one)
        <p class="mb-1"><a class="text-decoration-underline" href="{{ $one->page() }}">Enrolment {{ $one->id }}</a> {{ $one->state() }}</p>
    @endforeach
    <p class="mb-1">A <a class="text-decoration-underline" href="/media">recovery medium</a> is started there, which makes the machine
        known here by a code.
        <button class="btn btn-sm btn-outline-primary">Make a code</button></p>
</form>
<h3 class="fs-6 mt-3">The whole machine, onto a blank one at a hypervisor</h3>
<p class="mb-1">It is made for it, and nobody has to be there: to be kept, or as a drill, which removes it again. <a
        class="btn btn-sm btn-outline-primary" id="to-blank" href="/requests/{{ $request->id }}/blank">Settle it</a></p>

return;
